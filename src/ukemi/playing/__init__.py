"""Play a level one move at a time: by a person, or by a crowd of simulated players."""

from .options import Option
from .play import CannotDoError, Play, Turn
from .session import Session, SessionError

__all__ = ["CannotDoError", "Option", "Play", "Session", "SessionError", "Turn"]

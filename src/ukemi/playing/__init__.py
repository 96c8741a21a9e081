"""A level played one move at a time, by a person or by simulated players."""

from .options import Option
from .play import CannotDoError, Play, Turn
from .session import Session, SessionError

__all__ = ["CannotDoError", "Option", "Play", "Session", "SessionError", "Turn"]

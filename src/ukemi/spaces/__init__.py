"""Sets of positions: one by one, or as decision diagrams."""

from .explore import Exploration, explore
from .limits import MAX_POSITIONS, PLAYED, CutShortError, Limits
from .routes import ReplayError, Route, replay

__all__ = [
    "MAX_POSITIONS",
    "PLAYED",
    "CutShortError",
    "Exploration",
    "Limits",
    "ReplayError",
    "Route",
    "explore",
    "replay",
]

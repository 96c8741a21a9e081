"""Exploring positions; knows only variables and moves."""

from .backward import reached_from, reaching
from .explore import Exploration, explore
from .find import OutOfBudgetError, find_finish
from .limits import MAX_POSITIONS, Limits
from .routes import ReplayError, Route, replay

__all__ = [
    "MAX_POSITIONS",
    "Exploration",
    "Limits",
    "OutOfBudgetError",
    "ReplayError",
    "Route",
    "explore",
    "find_finish",
    "reached_from",
    "reaching",
    "replay",
]

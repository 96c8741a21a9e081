"""Exploring positions; knows only variables and moves."""

from .backward import reached_from, reaching
from .explore import Exploration, explore
from .limits import Limits
from .routes import ReplayError, Route, replay

__all__ = [
    "Exploration",
    "Limits",
    "ReplayError",
    "Route",
    "explore",
    "reached_from",
    "reaching",
    "replay",
]

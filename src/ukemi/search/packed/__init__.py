"""The plain search on many positions at once: packed into machine words, a frontier at a time."""

from .explore import explore_packed
from .found import PackedExploration
from .layout import TooLargeError

__all__ = ["PackedExploration", "TooLargeError", "explore_packed"]

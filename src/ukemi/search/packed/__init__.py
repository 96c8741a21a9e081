"""The plain search on many positions at once: packed into machine words, a frontier at a time."""

from .explore import PackedExploration, explore_packed
from .layout import TooLargeError

__all__ = ["PackedExploration", "TooLargeError", "explore_packed"]

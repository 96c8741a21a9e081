"""Pictures of a level."""

from .map import draw_map, save

__all__ = ["draw_map", "save"]

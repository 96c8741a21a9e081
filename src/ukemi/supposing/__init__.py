"""Suppose that a level is otherwise: a door open, another start."""

from .suppose import Supposed, suppose_all
from .what_of import what_of

__all__ = ["Supposed", "suppose_all", "what_of"]

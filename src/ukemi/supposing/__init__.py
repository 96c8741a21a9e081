"""Suppose that a level is otherwise: a door open, a key more, another start. Its file stays as it is."""

from .suppose import Supposed, suppose_all
from .what_of import what_of

__all__ = ["Supposed", "suppose_all", "what_of"]

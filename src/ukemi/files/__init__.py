"""Reading and writing level files."""

from .read import load, loads

__all__ = ["load", "loads"]

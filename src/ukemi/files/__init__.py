"""Reading and writing level files."""

from .read import load, loads
from .write import dumps, save

__all__ = ["dumps", "load", "loads", "save"]

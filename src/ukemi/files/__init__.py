"""Reading and writing level files."""

from .read import load, load_csv_map, loads
from .write import dumps, save

__all__ = ["dumps", "load", "load_csv_map", "loads", "save"]

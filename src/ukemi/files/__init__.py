"""Read, write and edit level files."""

from .changing import REMOVED, Edit, change, rename
from .loading import load, load_csv_map, loads
from .saving import dumps, save

__all__ = [
    "REMOVED",
    "Edit",
    "change",
    "dumps",
    "load",
    "load_csv_map",
    "loads",
    "rename",
    "save",
]

"""Read, write and edit level files."""

from ..level import Level
from .files.loading import load, load_csv_map, loads
from .files.saving import dumps, save
from .laying import GivenReader
from .text.changing import REMOVED, Edit, change, rename

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

Level.reader = GivenReader()

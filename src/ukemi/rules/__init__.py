"""Compile a level into variables and moves: each move has a guard and effects."""

from .compile import compile_level
from .position import DEAD, END, FINISHED, PLACE, PLAYING, Position
from .rules import Move, Rules

__all__ = [
    "DEAD",
    "END",
    "FINISHED",
    "PLACE",
    "PLAYING",
    "Move",
    "Position",
    "Rules",
    "compile_level",
]

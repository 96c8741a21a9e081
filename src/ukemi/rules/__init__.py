"""A level as variables and moves: a guard and an effect each. Nothing below knows rooms or doors."""

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

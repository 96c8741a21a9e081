"""Positions: a value for each variable of a level."""

from __future__ import annotations

#: The values of all variables, in order.
Position = tuple[int, ...]

#: The variables every level has: where the player is, and whether and how the run has ended.
PLACE, END = 0, 1
#: The values of :data:`END`.
PLAYING, FINISHED, DEAD = 0, 1, 2

"""Simulated players: how each chooses among the moves that can be made.

No simulated player knows the level. Each player sees the possible moves in its position, and remembers
its moves and the rooms it has entered; it plans no move ahead. If a player likes several moves best, it
chooses one at random.

=========  =========================================================================================
careless   any move that can be made, each as likely as the others; finishing too
thorough   first whatever it has not done before that is not walking (take, open, do, unlock); then
           it walks on, into the room it has entered least; it puts nothing down, and finishes only
           when every room it could walk to from there has been entered
hasty      finishes as soon as it can; else it unlocks what can be unlocked, and walks on into the
           room it has entered least; it bends down for things one time in three
=========  =========================================================================================
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.float64]

#: The kinds of move, in the order in which :class:`Seen` counts them.
KINDS = ("walk", "take", "drop", "unlock", "open", "act", "finish", "give")
WALK, TAKE, DROP, UNLOCK, OPEN, ACT, FINISH, GIVE = range(len(KINDS))


class Seen:
    """The view of a crowd: one row for each player, one column for each possible move.

    Attributes:
        kind: The kind of each move, by its number in :data:`KINDS`; -1 where there is no move.
        made: How often the player has made the move before.
        entered: How often the player has been in the room that it leads to.
        chance: A random number from 0 to 1 for each player and move, new each turn.
    """

    def __init__(
        self, kind: npt.NDArray[np.int8], made: Numbers, entered: Numbers, chance: Numbers
    ) -> None:
        self.kind, self.made, self.entered, self.chance = kind, made, entered, chance


def careless(seen: Seen) -> Numbers:
    """How much a careless player likes each move."""
    return np.zeros(seen.kind.shape)


def thorough(seen: Seen) -> Numbers:
    """How much a thorough player likes each move."""
    new = np.isin(seen.kind, (TAKE, UNLOCK, OPEN, ACT, GIVE)) & (seen.made == 0)
    walk = seen.kind == WALK
    unseen_near = (walk & (seen.entered == 0)).any(axis=1, keepdims=True)
    likes = np.full(seen.kind.shape, -1e6)
    likes[walk] = -seen.entered[walk]
    done_before = np.isin(seen.kind, (TAKE, UNLOCK, OPEN, ACT, GIVE)) & (seen.made > 0)
    likes[done_before] = -2 - seen.made[done_before]  # again, but seldom: it may open a way
    likes[new] = 2
    return np.where((seen.kind == FINISH) & ~unseen_near, 1, likes)


def hasty(seen: Seen) -> Numbers:
    """How much a hasty player likes each move."""
    walk = seen.kind == WALK
    likes = np.full(seen.kind.shape, -1e6)
    likes[walk] = -seen.entered[walk]
    bends = np.isin(seen.kind, (TAKE, OPEN, ACT, GIVE))
    likes[bends] = np.where(seen.chance[bends] < 1 / 3, 1 - seen.made[bends], -1e5)
    likes[seen.kind == UNLOCK] = 2
    likes[seen.kind == FINISH] = 3
    return likes


#: The players by name.
PLAYERS: dict[str, Callable[[Seen], Numbers]] = {
    "careless": careless,
    "thorough": thorough,
    "hasty": hasty,
}

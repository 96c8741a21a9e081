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

from collections.abc import Callable, Mapping
from functools import cached_property

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
        random: Draws random numbers.
    """

    def __init__(
        self,
        kind: npt.NDArray[np.int8],
        made: Callable[[], npt.NDArray[np.float32]],
        entered: Callable[[], npt.NDArray[np.float32]],
        random: np.random.Generator,
        width: int,
    ) -> None:
        self.kind, self._made, self._entered = kind, made, entered
        self.random, self._width = random, width

    @cached_property
    def made(self) -> Numbers:
        """Return how often the player has made the move before."""
        return self._made().astype(np.float64)

    @cached_property
    def entered(self) -> Numbers:
        """Return how often the player has been in the room that the move leads to."""
        return self._entered().astype(np.float64)

    @cached_property
    def chance(self) -> Numbers:
        """A random number from 0 to 1 for each player and move, new each turn."""
        return self.random.random((len(self.kind), self._width))[:, : self.kind.shape[1]]


def careless(seen: Seen) -> Numbers:
    """Rate how much a careless player likes each move."""
    return np.zeros(seen.kind.shape)


def thorough(seen: Seen) -> Numbers:
    """Rate how much a thorough player likes each move."""
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
    """Rate how much a hasty player likes each move."""
    walk = seen.kind == WALK
    likes = np.full(seen.kind.shape, -1e6)
    likes[walk] = -seen.entered[walk]
    bends = np.isin(seen.kind, (TAKE, OPEN, ACT, GIVE))
    likes[bends] = np.where(seen.chance[bends] < 1 / 3, 1 - seen.made[bends], -1e5)
    likes[seen.kind == UNLOCK] = 2
    likes[seen.kind == FINISH] = 3
    return likes


#: How much a kind of player likes each move; or a mixture, by name and weight.
Likes = Callable[[Seen], Numbers]
Kind = Likes | Mapping[str, float]

#: The players by name.
PLAYERS: dict[str, Likes] = {
    "careless": careless,
    "thorough": thorough,
    "hasty": hasty,
}


def likes_of(kind: Kind) -> Likes:
    """Return how much a kind of player likes each move.

    A player of a mixture acts, at each move, as one of its kinds, each with the chance of its weight.

    Args:
        kind: A function, or a mixture of :data:`PLAYERS`, such as ``{"hasty": 3, "careless": 1}``.

    Raises:
        ValueError: The mixture names a kind that there is not, or no weight is above 0.
    """
    if callable(kind):
        return kind
    for name, weight in kind.items():
        if name not in PLAYERS:
            raise ValueError(f"there is no player {name!r}; there are {', '.join(PLAYERS)}")
        if weight < 0:
            raise ValueError(f"the weight of {name!r} is below 0: {weight}")
    weights = np.array(list(kind.values()), dtype=np.float64)
    if not weights.sum() > 0:
        raise ValueError("a mixture needs a kind with a weight above 0")
    mixed = [PLAYERS[name] for name in kind]

    def likes(seen: Seen) -> Numbers:
        drawn = seen.random.choice(len(mixed), size=len(seen.kind), p=weights / weights.sum())
        return np.choose(drawn[:, None], [one(seen) for one in mixed])

    return likes

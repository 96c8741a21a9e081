"""A crowd of simulated players, all playing at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from math import sqrt
from statistics import NormalDist, median
from zlib import crc32

import numpy as np
import numpy.typing as npt

from ..level import Level
from ..questions.subjects import subjects
from ..rules import Move, compile_level
from ..rules.words import move_words
from ..spaces import Limits
from ..values import dataclass, field
from .known_positions import (
    ENDED_DEAD,
    ENDED_FINISHED,
    GOES_ON,
    LOST,
    UNSURE,
    KnownPositions,
    Numbered,
)
from .outlook import LookAhead
from .players import PLAYERS, WALK, Kind, Seen, likes_of

#: The moves after which a player gives up.
PATIENCE = 1_000


def interval(hits: int, runs: int, confidence: float = 0.95) -> tuple[float, float]:
    """The confidence interval of a share that was sampled.

    The score interval: E. B. Wilson, "Probable inference, the law of succession, and statistical
    inference", Journal of the American Statistical Association 22 (1927), 209-212.

    Returns:
        The least and the most the share is likely to be, from 0 to 1.

    Example:
        >>> [round(end, 3) for end in interval(0, 1000)]
        [0.0, 0.004]
    """
    z = NormalDist().inv_cdf(0.5 + confidence / 2)
    share = hits / runs
    middle = share + z * z / (2 * runs)
    spread = z * sqrt(share * (1 - share) / runs + z * z / (4 * runs * runs))
    scale = 1 + z * z / runs
    # At both ends the interval touches 0 or 1 exactly, which rounding may miss.
    least = 0.0 if not hits else max(0.0, (middle - spread) / scale)
    return least, 1.0 if hits == runs else min(1.0, (middle + spread) / scale)


@dataclass
class Outcome:
    """How the runs of one kind of player went.

    Attributes:
        player: The kind of player.
        runs: How many were played; none if the time was over before this kind made a move.
        finished, stuck, dead: How many ended so; stuck ones end at the move that loses the level.
        gave_up: How many were still playing when their patience ended.
        unsure: How many players may have been stuck: that is undecided.
        cut_short: How many players gave up only because the time was over.
        steps: The steps of the runs that finished.
        lost_by: How many runs each move lost, the most first.
        spent: The steps that all runs together made in each room: a walk counts for the room that it leaves.
        walked: How often all runs together walked from one room to another.
        entered: How many runs entered each room.
        tried: For each door, how many runs came to it shut without what opens it, and how often in all. Whoever
            walks into a room is taken to try each shut door there once.
        missed: For each thing that lies or can be opened or done, how many runs never took, opened or did it.
        again: The share of all steps that are walks along a passage that the player has walked before, either way.
    """

    player: str
    runs: int
    finished: int = 0
    stuck: int = 0
    dead: int = 0
    gave_up: int = 0
    unsure: int = 0
    cut_short: int = 0
    steps: list[int] = field(default_factory=list)
    lost_by: Counter[str] = field(default_factory=Counter)
    spent: dict[str, int] = field(default_factory=dict)
    walked: dict[tuple[str, str], int] = field(default_factory=dict)
    entered: dict[str, int] = field(default_factory=dict)
    tried: dict[str, tuple[int, int]] = field(default_factory=dict)
    missed: dict[str, int] = field(default_factory=dict)
    again: float = 0.0

    def share(self, count: int) -> float | None:
        """A count as a share of the runs; ``None`` if there were none."""
        return count / self.runs if self.runs else None

    @property
    def stuck_between(self) -> tuple[float, float] | None:
        """The share stuck, with 95 % confidence: the least and the most it is likely to be."""
        if not self.runs:
            return None
        return interval(self.stuck, self.runs)[0], interval(self.stuck + self.unsure, self.runs)[1]

    @property
    def usual_steps(self) -> float | None:
        """The median of the steps of the runs that finished; ``None`` where none did."""
        return median(self.steps) if self.steps else None

    def steps_of(self, share: float) -> int | None:
        """The steps within which a share of the runs that finish do so; ``None`` where none did."""
        return sorted(self.steps)[int(share * (len(self.steps) - 1))] if self.steps else None


def play_crowd(
    level: Level,
    runs: int = 10_000,
    seed: int = 1,
    players: Sequence[str] | Mapping[str, Kind] = tuple(PLAYERS),
    patience: int = PATIENCE,
    limits: Limits | None = None,
) -> list[Outcome]:
    """Let simulated players play a level. This is sampling: it proves nothing.

    Args:
        level: The level.
        runs: How many runs each kind of player plays.
        seed: Where the random numbers begin; the same seed gives the same runs.
        players: The kinds of player: names from :data:`~ukemi.playing.players.PLAYERS`; or a mapping from names of
            your own to mixtures, such as ``{"hasty": 3, "careless": 1}``, or to functions that say how much each
            move is liked.
        patience: The moves after which a player gives up.
        limits: How far to search for whether the level can still be finished, and how long to play.
            The time is divided among the kinds; runs that are not over by then count as given up,
            and as cut short.

    Returns:
        How it went for each kind of player.

    Raises:
        LevelError: The level cannot be played.
        ValueError: A mixture names a kind that there is not, or is of nothing.

    Example:
        >>> from ukemi.demo import DEMO_LEVELS
        >>> from ukemi.language import loads
        >>> level = loads(DEMO_LEVELS[1].text())
        >>> (outcome,) = play_crowd(level, runs=500, players=["hasty"])
        >>> outcome.finished + outcome.stuck + outcome.dead + outcome.gave_up
        500
        >>> [one.player for one in play_crowd(level, runs=5, players={"mixed": {"hasty": 3, "careless": 1}})]
        ['mixed']
    """
    rules = compile_level(level)
    limits = None if limits is None else limits.begin()
    kinds: dict[str, Kind] = (
        dict(players)
        if isinstance(players, Mapping)
        else {name: kind for name, kind in PLAYERS.items() if name in players}
    )
    likes = {name: likes_of(kind) for name, kind in kinds.items()}
    # Looking at the level is a part of its own: however large it is, each kind has time to play.
    looking = None if limits is None else limits.share(len(kinds) + 1)
    known = KnownPositions(level, rules, LookAhead(level, rules, looking, budget=500_000))
    outcomes = []
    for number, (name, liked) in enumerate(likes.items()):
        # Each kind has random numbers of its own: leaving one out changes no other.
        own = (
            list(PLAYERS).index(name) if kinds[name] is PLAYERS.get(name) else crc32(name.encode())
        )
        random = np.random.default_rng([seed, own])
        mine = None if limits is None else limits.share(len(kinds) - number)
        outcomes.append(_Crowd(known, name, liked, runs, random).play(patience, mine))
    return outcomes


class _Crowd:
    """The players of one kind, a row each.

    Attributes:
        state: The number of the position each is in.
        steps: The steps of each.
        made: How often each has made each move.
        entered: How often each has been in each room.
        tried: How often each came to each door shut.
    """

    def __init__(
        self,
        known: KnownPositions,
        name: str,
        likes: Callable[[Seen], npt.NDArray[np.float64]],
        runs: int,
        random: np.random.Generator,
    ) -> None:
        self.known, self.name, self.likes, self.random = known, name, likes, random
        self.runs = runs
        rules = known.rules
        self.state = np.zeros(runs, dtype=np.int64)
        self.steps = np.zeros(runs, dtype=np.int64)
        self.made = np.zeros((runs, max(len(rules.moves), 1)), dtype=np.float32)
        self.entered = np.zeros((runs, len(rules.places)), dtype=np.float32)
        self.tried = np.zeros((runs, len(known.doors)), dtype=np.int32)
        self.spent = np.zeros(len(rules.places), dtype=np.int64)
        self.walked: Counter[tuple[int, int]] = Counter()
        for place in known.standing[0]:
            self.entered[:, place] = 1

    def play(self, patience: int, limits: Limits | None) -> Outcome:
        """Let all of them play, until each has ended or lost patience."""
        known, outcome = self.known, Outcome(self.name, self.runs)
        everyone = np.arange(self.runs)
        active = self._end(outcome, everyone, np.full(self.runs, -1))
        arrived = np.ones(len(active), dtype=bool)
        for moved in range(patience):
            if not len(active):
                break
            if limits is not None:
                limits.progress(moved, f"moves of {self.name} players", len(active))
                if limits.over:
                    if not moved:
                        return Outcome(self.name, 0)
                    outcome.cut_short = len(active)
                    break
            before = self.state[active]
            self.tried[active[arrived]] += known.shut[before[arrived]]
            move = self._turn(active, before)
            arrived = known.kinds[move] == WALK
            there = self.state[active]
            known.learn(before, there)
            going = known.status[there] == GOES_ON
            going |= known.status[there] == UNSURE
            active, arrived = self._end(outcome, active, move), arrived[going]
        outcome.gave_up = len(active)
        outcome.unsure = int((known.status[self.state[active]] == UNSURE).sum())
        self._sum_up(outcome)
        return outcome

    def _turn(self, active: Numbered, before: Numbered) -> Numbered:
        """Let each make a move; return the moves."""
        known = self.known
        moves, after = known.options(before)
        standing = known.standing
        rows = active[:, None]
        seen = Seen(
            np.where(moves < 0, -1, known.kinds[moves]),
            lambda: self.made[rows, moves],
            lambda: self.entered[rows, standing[after, known.movers[moves]]],
            self.random,
            known.width,
        )
        liked = np.where(moves < 0, -np.inf, self.likes(seen))
        best = liked == liked.max(axis=1, keepdims=True)
        line = np.arange(len(active))
        # Which of those it likes best: the first, the second and so on, each as likely.
        count = best.cumsum(axis=1)
        luck = (self.random.random(len(active)) * count[:, -1]).astype(np.int64)
        chosen = (count > luck[:, None]).argmax(axis=1)
        move, reached = moves[line, chosen], after[line, chosen]
        mover = known.movers[move]
        here, to = standing[before, mover], standing[reached, mover]
        places = len(self.spent)
        costs = np.bincount(here, weights=known.costs[move], minlength=places)
        self.spent += costs.astype(np.int64)
        walks = known.kinds[move] == WALK
        pairs, times = np.unique(here[walks] * places + to[walks], return_counts=True)
        for pair, number in zip(pairs.tolist(), times.tolist(), strict=True):
            self.walked[divmod(pair, places)] += number
        self.state[active] = reached
        self.steps[active] += known.costs[move]
        self.made[active, move] += 1
        self.entered[active, to] += 1
        made: Numbered = move
        return made

    def _end(self, outcome: Outcome, active: Numbered, move: Numbered) -> Numbered:
        """Count the runs that have just ended, and return the others."""
        status = self.known.status[self.state[active]]
        finished = status == ENDED_FINISHED
        outcome.finished += int(finished.sum())
        outcome.steps += self.steps[active[finished]].tolist()
        outcome.dead += int((status == ENDED_DEAD).sum())
        lost = status == LOST
        outcome.stuck += int(lost.sum())
        for number, count in zip(*np.unique(move[lost], return_counts=True), strict=True):
            outcome.lost_by[_called(self.known.rules.moves, int(number))] += int(count)
        rest: Numbered = active[(status == GOES_ON) | (status == UNSURE)]
        return rest

    def _sum_up(self, outcome: Outcome) -> None:
        """Add the figures about rooms, doors, things and ground walked again."""
        known, rules = self.known, self.known.rules
        outcome.spent = {rules.places[n]: int(one) for n, one in enumerate(self.spent) if one}
        outcome.walked = {
            (rules.places[a], rules.places[b]): count for (a, b), count in self.walked.items()
        }
        rooms = (self.entered > 0).sum(axis=0)
        outcome.entered = {rules.places[n]: int(one) for n, one in enumerate(rooms)}
        outcome.tried = {
            door: (int((self.tried[:, n] > 0).sum()), int(self.tried[:, n].sum()))
            for n, door in enumerate(known.doors)
            if self.tried[:, n].any()
        }
        ends = np.unique(self.state)
        for one in subjects(known.level, rules):
            if one.kind in ("item", "chest", "act"):
                does = [m.number for m in rules.moves if one.variable in m.changes]
                done = (self.made[:, does] > 0).any(axis=1)
                shown = np.array([known.value(int(end), one.variable) for end in ends])
                by_itself = dict(zip(ends.tolist(), (shown != one.before).tolist(), strict=True))
                done |= np.array([by_itself[end] for end in self.state.tolist()])
                if missed := int((~done).sum()):
                    outcome.missed[one.name] = missed
        outcome.again = self._again()

    def _again(self) -> float:
        """The share of all steps that walk along a passage walked before."""
        passages: dict[str, list[Move]] = {}
        for move in self.known.rules.moves:
            if move.what["do"] == "walk":
                passages.setdefault(str(move.what["name"]), []).append(move)
        again = 0.0
        for walks in passages.values():
            times = self.made[:, [move.number for move in walks]].sum(axis=1)
            again += float(np.maximum(times - 1, 0).sum()) * walks[0].cost
        total = float(self.steps.sum())
        return again / total if total else 0.0


def _called(moves: Sequence[Move], number: int) -> str:
    return move_words(moves[number].what) if number >= 0 else "from the start"

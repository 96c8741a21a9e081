"""A crowd of simulated players, all playing at once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from math import sqrt
from statistics import NormalDist, median

import numpy as np
import numpy.typing as npt

from ..checks import Answer
from ..level import Level
from ..rules import DEAD, END, FINISHED, PLAYING, Move, Position, Rules, compile_level
from ..rules.words import move_words
from ..spaces import Limits
from .outlook import LookAhead
from .players import KINDS, PLAYERS, Seen

#: The moves after which a player gives up.
PATIENCE = 1_000

Numbered = npt.NDArray[np.int64]


def interval(hits: int, runs: int, confidence: float = 0.95) -> tuple[float, float]:
    """The confidence interval of a share that was sampled.

    The score interval: E. B. Wilson, "Probable inference, the law of succession, and statistical
    inference", Journal of the American Statistical Association 22 (1927), 209-212.

    Args:
        hits: How often it happened.
        runs: Of how many.
        confidence: How sure to be.

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


def play_crowd(
    level: Level,
    runs: int = 10_000,
    seed: int = 1,
    players: Sequence[str] = tuple(PLAYERS),
    patience: int = PATIENCE,
    limits: Limits | None = None,
) -> list[Outcome]:
    """Let simulated players play a level. This is sampling: it proves nothing.

    Args:
        level: The level.
        runs: How many runs each kind of player plays.
        seed: Where the random numbers begin; the same seed gives the same runs.
        players: The kinds of player, of :data:`~ukemi.playing.players.PLAYERS`.
        patience: The moves after which a player gives up.
        limits: How far to search for whether the level can still be finished, and how long to play.
            The time is divided among the kinds; runs that are not over by then count as given up,
            and as cut short.

    Returns:
        How it went for each kind of player.

    Raises:
        LevelError: The level cannot be played.

    Example:
        >>> from ukemi.demo import DEMO_LEVELS
        >>> from ukemi.files import loads
        >>> (outcome,) = play_crowd(loads(DEMO_LEVELS[1].text()), runs=500, players=["hasty"])
        >>> outcome.finished + outcome.stuck + outcome.dead + outcome.gave_up
        500
    """
    rules = compile_level(level)
    limits = None if limits is None else limits.begin()
    kinds = [name for name in PLAYERS if name in players]
    # Looking at the level is a part of its own: however large it is, each kind has time to play.
    looking = None if limits is None else limits.share(len(kinds) + 1)
    ground = _Ground(rules, LookAhead(level, rules, looking, budget=500_000))
    outcomes = []
    for number, name in enumerate(kinds):
        # Each kind has random numbers of its own: leaving one out changes no other.
        random = np.random.default_rng([seed, list(PLAYERS).index(name)])
        mine = None if limits is None else limits.share(len(kinds) - number)
        outcomes.append(_play(ground, name, runs, random, patience, mine))
    return outcomes


class _Ground:
    """The positions that players have reached, with the possible moves in each."""

    def __init__(self, rules: Rules, outlook: LookAhead) -> None:
        self.rules, self.outlook = rules, outlook
        self.numbers: dict[Position, int] = {}
        self.positions: list[Position] = []
        # As wide as can be needed, so that what is drawn at random depends on nothing else.
        places = range(len(rules.places))
        width = max(1, *(len(rules.moves_at(place)) for place in places))
        self.moves = np.full((64, width), -1)
        self.after = np.zeros((64, width), dtype=np.int64)
        self.known = np.zeros(64, dtype=bool)
        self.kinds = np.array([KINDS.index(move.what["do"]) for move in rules.moves] or [0])
        self.costs = np.array([move.cost for move in rules.moves] or [0])
        self.number(rules.start())

    def number(self, position: Position) -> int:
        number = self.numbers.get(position)
        if number is None:
            number = self.numbers[position] = len(self.positions)
            self.positions.append(position)
            if number == len(self.known):
                self._grow(2 * number)
        return number

    def look(self, number: int) -> None:
        """Find out which moves can be made in a position."""
        found = [
            (move, self.number(after))
            for move, after in self.rules.successors(self.positions[number])
        ]
        for column, (move, after) in enumerate(found):
            self.moves[number, column], self.after[number, column] = move.number, after
        self.known[number] = True

    def _grow(self, rows: int) -> None:
        more = ((0, rows - len(self.known)), (0, 0))
        self.moves = np.pad(self.moves, more, constant_values=-1)
        self.after = np.pad(self.after, more)
        self.known = np.pad(self.known, more[:1])


def _play(
    ground: _Ground,
    name: str,
    runs: int,
    random: np.random.Generator,
    patience: int,
    limits: Limits | None,
) -> Outcome:
    outcome = Outcome(name, runs)
    rules = ground.rules
    state = np.zeros(runs, dtype=np.int64)
    steps = np.zeros(runs, dtype=np.int64)
    made = np.zeros((runs, max(len(rules.moves), 1)), dtype=np.float64)
    entered = np.zeros((runs, len(rules.places)), dtype=np.float64)
    movers = np.array(
        [rules.standing.index(rules.place_of(move.what.get("by"))) for move in rules.moves] or [0]
    )
    for variable in rules.standing:
        entered[:, ground.positions[0][variable]] = 1
    active = _end(ground, outcome, np.arange(runs), state, steps, np.full(runs, -1))
    for moved in range(patience):
        if not len(active):
            break
        if limits is not None and limits.over:
            if not moved:
                return Outcome(name, 0)
            outcome.cut_short = len(active)
            break
        for number in np.unique(state[active]):
            if not ground.known[number]:
                ground.look(int(number))
        moves, after = ground.moves[state[active]], ground.after[state[active]]
        standing = np.array([[one[place] for place in rules.standing] for one in ground.positions])
        places = standing[after, movers[moves]]
        rows = active[:, None]
        seen = Seen(
            np.where(moves < 0, -1, ground.kinds[moves]).astype(np.int8),
            made[rows, moves],
            entered[rows, places],
            random.random(moves.shape),
        )
        liked = np.where(moves < 0, -np.inf, PLAYERS[name](seen))
        best = liked == liked.max(axis=1, keepdims=True)
        chosen = np.where(best, random.random(moves.shape), -1).argmax(axis=1)
        line = np.arange(len(active))
        move = moves[line, chosen]
        state[active] = after[line, chosen]
        steps[active] += ground.costs[move]
        made[active, move] += 1
        entered[active, places[line, chosen]] += 1
        active = _end(ground, outcome, active, state, steps, move)
    outcome.gave_up = len(active)
    for number, count in zip(*np.unique(state[active], return_counts=True), strict=True):
        if ground.outlook.can_finish(ground.positions[number]) == Answer.UNKNOWN:
            outcome.unsure += int(count)
    return outcome


def _end(
    ground: _Ground,
    outcome: Outcome,
    active: Numbered,
    state: Numbered,
    steps: Numbered,
    move: Numbered,
) -> Numbered:
    """Count the runs that have just ended, and give back the others."""
    going = np.ones(len(active), dtype=bool)
    for number in np.unique(state[active]):
        position = ground.positions[number]
        ended = position[END]
        if ended == PLAYING and ground.outlook.can_finish(position) != Answer.NO:
            continue
        there = state[active] == number
        count = int(there.sum())
        going &= ~there
        if ended == FINISHED:
            outcome.finished += count
            outcome.steps += steps[active[there]].tolist()
        elif ended == DEAD:
            outcome.dead += count
        else:
            outcome.stuck += count
            for lost_by in move[there].tolist():
                outcome.lost_by[_told(ground.rules.moves, lost_by)] += 1
    return active[going]


def _told(moves: Sequence[Move], number: int) -> str:
    return move_words(moves[number].what) if number >= 0 else "from the start"

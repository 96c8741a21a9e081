"""Ukemi proves that a level of keys, locks and passages can always be completed.

Example:
    >>> import ukemi
    >>> level = ukemi.Level("The Tide Mill")
    >>> level.item("iron-key", use="spent")
    >>> level.room("quay", items="iron-key")
    >>> level.room("store-room")
    >>> level.room("bell-loft")
    >>> level.passage("quay <-> store-room", lock="iron-key", name="store-door")
    >>> level.passage("quay <-> bell-loft", lock="iron-key", name="loft-door")
    >>> level.set_start("quay")
    >>> level.set_goal("bell-loft")
    >>> report = ukemi.check(level)
    >>> report.answers.finish, report.answers.stuck
    (<Answer.YES: 'yes'>, <Answer.POSSIBLE: 'possible'>)
    >>> report.findings[0]
    <Finding error can-get-stuck: After `unlock store-door with iron-key` the level can no \
longer be finished: a softlock.>
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from importlib import import_module
from typing import TYPE_CHECKING, Any

from .checks import Answer, Answers, Finding, Mistake, Report, check_level
from .language import REMOVED, Edit, change, dumps, load, load_csv_map, loads, rename, save
from .language.built_campaign import Campaign
from .level import Level, LevelError, Place, Problem
from .level.displayed import Displayed
from .spaces import MAX_POSITIONS, PLAYED, Limits, Route

if TYPE_CHECKING:
    from matplotlib.figure import Figure
    from pandas import DataFrame

    from .comparing import Comparison, Remark
    from .mends import Mend
    from .playing import Option, Play, Turn
    from .playing.crowd import Outcome
    from .playing.players import Kind
    from .report.table import measures_table
    from .scattering import Scattered, Scattering

__version__ = "0.1.0"

#: A level or a campaign, or the path of its file.
Given = Level | Campaign | str | os.PathLike[str]

#: The classes that only some calls return, with the packages that have them: loaded when they are asked for.
_LATER = {
    "Comparison": "comparing", "Remark": "comparing", "Mend": "mends", "Option": "playing",
    "Outcome": "playing.crowd", "Play": "playing", "Scattered": "scattering", "Scattering": "scattering",
    "Turn": "playing", "measures_table": "report.table",
}  # fmt: skip

__all__ = [
    "REMOVED",
    "Answer",
    "Answers",
    "Campaign",
    "Comparison",
    "Edit",
    "Finding",
    "Level",
    "LevelError",
    "Mend",
    "Mistake",
    "Option",
    "Outcome",
    "Place",
    "Play",
    "Problem",
    "Remark",
    "Report",
    "Route",
    "Scattered",
    "Scattering",
    "Turn",
    "change",
    "check",
    "check_many",
    "compare",
    "crowd",
    "draw_map",
    "dumps",
    "load",
    "load_csv_map",
    "loads",
    "measures_table",
    "mends_of",
    "play",
    "rename",
    "save",
    "scatter",
    "suppose",
]


def check(
    level: Given,
    *,
    max_positions: int = MAX_POSITIONS,
    max_seconds: float | None = None,
    max_memory: int | None = None,
    knowing: bool = False,
    quick: bool = False,
    in_hand: bool = False,
    on_answer: Callable[[str, Answer], None] | None = None,
) -> Report:
    """Check a level: can it be finished, can anyone get stuck, and why.

    Args:
        level: A level or a campaign, or the path of its file.
        max_positions: The greatest number of positions to search.
        max_seconds: The most time to search, in seconds.
        max_memory: The most memory to take for positions and moves, in bytes.
        knowing: Whether to ask everything again for a player who knows the level's codes.
        quick: Whether to ask only who can finish, get stuck or die, and about rewards. The report then
            names no status of doors, chests, acts, rooms and items, no order and no measures.
        in_hand: Whether to ask what can be in hand in each room of a large level, too; of a small one it is always
            asked.
        on_answer: Called with each of the first answers as soon as it is proven: its name (``finish``,
            ``stuck``, ``deadly`` or ``all_rewards``) and the answer. It may come more than once.

    Returns:
        The report.

    Raises:
        LevelError: The level cannot be read or played.

    Example:
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> report = check(level)
        >>> report.sound, report.routes["finish"].steps
        (True, 1)
        >>> report = check(level, on_answer=lambda name, answer: print(name, answer))
        finish yes
        stuck never
        deadly no
        all_rewards yes

        Beside other work, in another thread:

        >>> import asyncio
        >>> asyncio.run(asyncio.to_thread(check, level)) == report
        True
    """
    level = _level(level)
    limits = Limits(max_positions, max_seconds, max_memory, on_answer=on_answer)
    report = check_level(level, limits, knowing, quick=quick, hand=in_hand)
    return replace(report, mender=_mended)


def _mended(report: Report, finding: Finding) -> Finding:
    from .mends import mends_of_finding  # loaded only to look for mends

    found = mends_of_finding(report, finding, Limits())
    return replace(finding, mends=tuple(found.mends), mends_cut_short=not found.all_tried)


def suppose(level: Given, *suppositions: str) -> Level:
    """Suppose that a level is otherwise: a door open, a key more, another start.

    What can be supposed: ``open DOOR``, ``shut DOOR``, ``no lock DOOR``, ``no gate WAY``, ``carry N ITEM``,
    ``ITEM in ROOM``, ``no ITEM in ROOM``, ``FLAG on``, ``FLAG off``, ``start ROOM``, ``no way A -> B``,
    ``way A -> B``, ``goal CONDITION``, ``knows CODE``, ``without PLAYER``. In a campaign, the names are those of
    a check: ``open flood/loft-door``.

    Args:
        level: A level, or the path of a level or campaign file. It stays as it is.
        suppositions: What is supposed, one after another.

    Returns:
        The level as it would be. It is read as if its file said so.

    Raises:
        LevelError: Something cannot be supposed, or the level cannot be read then.

    Example:
        >>> level = loads("{start: quay, goal: mill, items: {peg: {}}, rooms: [quay, mill],"
        ...               " passages: [quay <-> mill: {lock: peg, name: mill-door}]}")
        >>> check(level).answers.finish, check(suppose(level, "open mill-door")).answers.finish
        (<Answer.NO: 'no'>, <Answer.YES: 'yes'>)
    """
    from .supposing import suppose_all

    return suppose_all(_level(level), suppositions).level


def mends_of(level: Given, *, max_seconds: float | None = None) -> list[Mend]:
    """Find changes that mend a level, or with which a file can be read.

    Each was made on a copy and checked: with it, the gravest findings are gone or fewer, and nothing as grave
    is new. In a level that cannot be finished, players are stuck from the start: mends with which they can still
    get stuck come last, and say so in ``left``.

    Args:
        level: A level, or the path of a level or campaign file.
        max_seconds: The most time to take, in seconds; by default, the number of tries alone ends
            the search.

    Returns:
        The mends, the likeliest first: those that keep the puzzle as it is before those that make it easier.
        The list is empty if nothing is wrong. Each has ``say``, ``text`` (the new text of its file; ``texts`` by file) and
        ``diff``.

    Raises:
        LevelError: The file does not exist, or is no text.

    Example:
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
        >>> [one.say for one in mends_of(level)][:2]
        ['make mill -> quay two-way', 'let mill -> quay lead from quay to mill']
    """
    from .mends import mends_of  # loaded only to look for mends

    return mends_of(
        level.joined() if isinstance(level, Campaign) else level, max_seconds=max_seconds
    )


def check_many(
    levels: Iterable[Given],
    *,
    jobs: int = 1,
    client: Any = None,
    on_row: Callable[[dict[str, Any]], None] | None = None,
    max_positions: int = MAX_POSITIONS,
    max_seconds: float | None = None,
    max_memory: int | None = None,
) -> DataFrame:
    """Check many levels, several at a time or on a cluster.

    Args:
        levels: Levels, or the paths of level files.
        jobs: The greatest number of processes.
        client: A ``distributed.Client``, to check on the workers of a cluster instead.
        on_row: Called with each row as soon as it is there: a slow level holds up no other.
        max_positions: The greatest number of positions to search for each level.
        max_seconds: The most time for each level, in seconds.
        max_memory: The most memory to take for positions and moves, in bytes; several processes
            share it.

    Returns:
        A pandas table, a row a level: the columns of :func:`measures_table`; ``errors`` and
        ``warnings``, how many; ``codes`` of the findings; ``positions``, ``complete`` and ``seconds``
        of the search; and ``error``, why a level could not be read or checked, else missing.

    Raises:
        ImportError: pandas is not installed.

    Example:
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> table = check_many([level, "nowhere.yaml"])
        >>> list(table["finish"].fillna("-")), table["error"][1]
        (['yes', '-'], 'cannot read this file: no such file or directory')
    """
    from .bulk.many import check_many  # loaded where many levels are checked

    limits = Limits(max_positions, max_seconds, max_memory)
    given = (one.joined() if isinstance(one, Campaign) else one for one in levels)
    return check_many(given, limits, jobs, client, on_row)


def play(
    level: Given,
    *,
    max_positions: int = PLAYED.positions,
    max_seconds: float | None = PLAYED.seconds,
    max_memory: int | None = None,
) -> Play:
    """Play a level, one move at a time.

    Args:
        level: A level or a campaign, or the path of its file.
        max_positions: The greatest number of positions to search for a question such as whether the
            level can still be finished.
        max_seconds: The most time for each question, in seconds.
        max_memory: The most memory to take for positions and moves, in bytes.

    Returns:
        The play, at the start.

    Raises:
        LevelError: The level cannot be read or played.

    Example:
        >>> level = Level()
        >>> level.room("quay")
        >>> level.room("mill")
        >>> level.passage("quay -> mill")
        >>> level.set_start("quay")
        >>> level.set_goal("mill")
        >>> playing = play(level)
        >>> turn = playing.do("go mill")
        >>> [option.asked for option in playing.moves()]
        ['finish']
    """
    from .playing import Play  # loaded only to play

    level = _level(level)
    return Play(level, Limits(max_positions, max_seconds, max_memory))


def crowd(
    level: Given,
    *,
    runs: int = 10_000,
    seed: int = 1,
    players: Sequence[str] | Mapping[str, Kind] = ("careless", "thorough", "hasty"),
    patience: int = 1_000,
    max_positions: int = PLAYED.positions,
    max_seconds: float | None = 60.0,
    max_memory: int | None = None,
) -> list[Outcome]:
    """Let simulated players play a level: how they fare, and what they meet. It is sampling, and proves nothing.

    Args:
        level: A level or a campaign, or the path of its file.
        runs: How many runs each kind of player plays.
        seed: Where the random numbers begin; the same seed gives the same runs.
        players: The kinds of player: names (``careless``, ``thorough``, ``hasty``); or a mapping from names of your
            own to mixtures, such as ``{"hasty": 3, "careless": 1}``: at each move, a player acts as one of them.
        patience: The moves after which a player gives up.
        max_positions: The greatest number of positions to search for whether the level can still be finished.
        max_seconds: The time limit for all of them, in seconds.
        max_memory: The most memory to take for positions and moves, in bytes.

    Returns:
        For each kind, how its runs ended, how many steps they took, where those were spent, which doors were tried
        in vain, and what was never found.

    Raises:
        LevelError: The level cannot be read or played.
        ValueError: A mixture names a kind that there is not, or is of nothing.

    Example:
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay <-> mill]}")
        >>> (most,) = crowd(level, runs=100, players={"most": {"careless": 1, "thorough": 3}})
        >>> most.player, most.finished, most.stuck
        ('most', 100, 0)
    """
    from .playing.crowd import play_crowd  # loaded only for a crowd

    level = _level(level)
    limits = Limits(max_positions, max_seconds, max_memory)
    return play_crowd(level, runs, seed, players, patience, limits)


def scatter(
    level: Given,
    *,
    count: int = 1,
    seed: int = 1,
    groups: Sequence[str] = (),
    shortest: tuple[int | None, int | None] | None = None,
    order_at_least: int | None = None,
    spread: int | None = None,
    even: bool = False,
    tries: int = 10_000,
    max_positions: int = MAX_POSITIONS,
    max_seconds: float | None = None,
    max_memory: int | None = None,
) -> Scattering:
    """Place things of a level again at random, such that it still keeps its promises.

    Args:
        level: A level with ``scatter`` in it, or the path of a level file.
        count: How many levels, each with other placements.
        seed: Where chance begins: the same seed gives the same levels.
        groups: The groups of ``scatter`` to place again; none for all.
        shortest: The fewest and the most steps of the shortest finishing run.
        order_at_least: So many things must be done one after another.
        spread: So many steps, at least, from each key to each lock that asks for it.
        even: Whether each placement that holds is equally likely, at its price.
        tries: The greatest number of placements to try for one level.
        max_positions: The greatest number of positions to search in each check.
        max_seconds: The time limit for the whole call, in seconds.
        max_memory: The most memory to take for positions and moves, in bytes.

    Returns:
        The levels, drawn and checked as they are asked for: go through them once. Afterwards it has
            the number of levels found, whether it is proven that there are no more, and the number
            of placements tried.

    Raises:
        LevelError: The level cannot be read, nothing in it is scattered, a thing lies nowhere, or
            there is no room for them.

    Example:
        >>> level = loads("{start: quay, goal: mill, items: {oak-key: {}}, rooms: {quay: {items: oak-key}, "
        ...               "store: {}, mill: {}}, passages: [quay <-> store, store <-> mill: {lock: oak-key}], "
        ...               "scatter: {keys: {items: oak-key}}}")
        >>> found = scatter(level, count=5)
        >>> sorted(one.where for one in found)
        [(('oak-key', 'quay'),), (('oak-key', 'store'),)]
        >>> found.kept, found.none_left
        (2, True)
    """
    from .scattering import Scatterer, Scattering, Wishes  # loaded only to scatter

    level = _level(level)
    steps = None if shortest is None else (shortest[1], shortest[0])
    wishes = Wishes(steps, order_at_least, spread)
    limits = Limits(max_positions, max_seconds, max_memory)
    scatterer = Scatterer(level, groups, seed, wishes, even, tries, limits)
    scatterer.draws  # noqa: B018 # raises at once if it is impossible
    return Scattering(scatterer, count)


def compare(
    old: Given | Report,
    new: Given | Report,
    *,
    max_positions: int = MAX_POSITIONS,
    max_seconds: float | None = None,
    max_memory: int | None = None,
) -> Comparison:
    """Compare two versions of a level: what a change did.

    Args:
        old, new: The versions: levels, paths of level files, or reports of checks.
        max_positions: The greatest number of positions to search in each check.
        max_seconds: The most time for each check, in seconds.
        max_memory: The most memory to take for positions and moves, in bytes.

    Returns:
        The changed answers, the changes in the level, the findings that are gone or new, and the
        changed figures; ``worse`` says whether anything got worse.

    Raises:
        LevelError: A level cannot be read or played.

    Example:
        >>> old = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay <-> mill]}")
        >>> new = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [mill -> quay]}")
        >>> change = compare(old, new)
        >>> change.worse, change.verdict[0].says
        (True, 'it can no longer be finished')
    """
    from .comparing import compare_reports  # loaded only to compare

    limits = Limits(max_positions, max_seconds, max_memory)
    reports = []
    for one in (old, new):
        if not isinstance(one, Report):
            one = replace(check_level(_level(one), limits), mender=_mended)
        reports.append(one)
    return compare_reports(*reports)


def draw_map(
    level: Given,
    path: str | os.PathLike[str] | None = None,
    *,
    route: Route | None = None,
    notes: bool = False,
) -> Figure:
    """Draw a level.

    Args:
        level: A level or a campaign, or the path of its file.
        path: Where to save the picture: a ``.png``, ``.svg`` or ``.pdf`` file; ``None`` to save
            nothing.
        route: A route to lay on the picture, such as ``report.routes["finish"]``.
        notes: Whether to list the notes of the level below the picture.

    Returns:
        The Matplotlib figure.

    Raises:
        LevelError: The level cannot be read, names a colour that is none, or has more rooms than a
            picture shows.
        ValueError: The path has another ending.

    Example:
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> figure = draw_map(level, route=check(level).routes["finish"])
        >>> len(figure.axes) > 0
        True
    """
    from . import draw

    level = _level(level)
    figure = draw.draw_map(level, route, notes=notes)
    if path is not None:
        draw.save(figure, path)
    return figure


def _level(given: Given) -> Level:
    """Return a level that was given, or read it from its file; a campaign becomes one level."""
    if isinstance(given, Campaign):
        return given.joined()
    return given if isinstance(given, Level) else load(given)


class _Forms:
    """The forms of a report, from the packages that know them."""

    def to_dict(self, report: Report) -> dict[str, Any]:
        from .report.as_json import report_dict

        return report_dict(report)

    def to_html(self, report: Report) -> str:
        from .draw.svg import svg_map
        from .report.page import html_page

        return html_page([report], {0: svg_map(report.level)})


def _shown(shown: Any) -> str:
    from .notebook import html_of  # loaded only in a notebook

    return html_of(shown)


Report.forms = _Forms()
Displayed.html_of = staticmethod(_shown)


def __getattr__(name: str) -> Any:
    if name in _LATER:
        return getattr(import_module(f"{__name__}.{_LATER[name]}"), name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted([*__all__, "__version__"])

"""``ukemi crowd``: simulated players, beside the proof."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ..language import load
from ..language.files.replacing import PICTURES, must_be_writable
from ..language.text.json_text import json_text
from ..level.names import in_list
from ..spaces import PLAYED
from .check import MaxPositions, MaxSeconds
from .output import fail, print_line
from .play import Level
from .searching import MaxMemory, limits_of, searching

if TYPE_CHECKING:
    from ..level import Level as Level_
    from ..playing.crowd import Outcome


def crowd(
    level: Level,
    runs: Annotated[
        int, typer.Option(help="How many runs each kind plays.", min=1, max=1_000_000, metavar="N")
    ] = 10_000,
    seed: Annotated[
        int, typer.Option(help="Where the random numbers begin.", min=0, metavar="N")
    ] = 1,
    patience: Annotated[
        int, typer.Option(help="The moves after which a player gives up.", min=1, metavar="N")
    ] = 1_000,
    player: Annotated[
        list[str] | None,
        typer.Option(help="Only this kind: careless, thorough or hasty; may be repeated."),
    ] = None,
    output: Annotated[
        Path | None,
        typer.Option("-o", "--output", help="A picture too: a .png, .svg or .pdf file."),
    ] = None,
    map: Annotated[
        Path | None,
        typer.Option(
            "--map",
            help="A picture of where the players spend their steps: .png, .svg or .pdf.",
            metavar="FILE",
        ),
    ] = None,
    json: Annotated[bool, typer.Option("--json", help="Print values for tools.")] = False,
    max_positions: MaxPositions = PLAYED.positions,
    max_seconds: MaxSeconds = 60.0,
    max_memory: MaxMemory = None,
) -> None:
    """Let simulated players play a level: how often they finish, get stuck or die.

    This is sampling. It shows what is likely; what is possible is proven by `ukemi check`.
    """
    from ..level.names import nearest
    from ..playing.crowd import play_crowd
    from ..playing.players import PLAYERS

    for name in player or ():
        if name not in PLAYERS:
            near = nearest(name, PLAYERS)
            hint = f"; did you mean {near!r}?" if near else f"; there are {', '.join(PLAYERS)}"
            fail(f"--player {name}: there is no such player{hint}")
    for picture in (output, map):
        if picture is not None:
            must_be_writable(picture, endings=PICTURES, inputs=[level])
    if output is not None and map is not None and output.resolve() == map.resolve():
        fail(f"{map}: -o and --map name the same file")
    loaded = load(level)
    with searching(limits_of(max_positions, max_seconds, max_memory)) as limits:
        outcomes = play_crowd(loaded, runs, seed, player or tuple(PLAYERS), patience, limits)
    if json:
        document = {
            "ukemi": 1, "level": loaded.name, "seed": seed, "sampled": True,
            "players": [_plain(one) for one in outcomes],
        }  # fmt: skip
        print(json_text(document))
    else:
        _print(loaded.name, outcomes, runs, seed, level)
    if output is not None:
        _draw(loaded.name, outcomes, output, level)
    if map is not None:
        _draw_steps(loaded, outcomes, map, level)
    for picture in (output, map):
        if picture is not None and not json:
            print_line(f"wrote {picture}")


def _plain(one: Outcome) -> dict[str, Any]:
    return {
        "player": one.player,
        "runs": one.runs,
        "finished": one.finished,
        "stuck": one.stuck,
        "dead": one.dead,
        "gave-up": one.gave_up,
        "unsure": one.unsure,
        "cut-short": one.cut_short,
        "stuck-between": one.stuck_between and [round(end, 5) for end in one.stuck_between],
        "usual-steps": one.usual_steps,
        "steps": {str(steps): count for steps, count in sorted(Counter(one.steps).items())},
        "spent": one.spent,
        "entered": one.entered,
        "tried": {
            door: {"runs": runs, "times": times} for door, (runs, times) in one.tried.items()
        },
        "missed": one.missed,
        "walked-again": round(one.again, 4),
        "lost-by": dict(one.lost_by.most_common()),
    }


def _print(name: str, outcomes: list[Outcome], runs: int, seed: int, file: str) -> None:
    print_line(f"{name}: {runs:,} runs of each kind of player, seed {seed}")
    print_line()
    print_line("player      finished   stuck   (95 % sure)     died  gave up  steps, usually")
    for one in outcomes:
        if one.stuck_between is None:
            print_line(f"{one.player:<10}  not run: the time was over")
            continue
        least, most = one.stuck_between
        steps = "-" if one.usual_steps is None else f"{one.usual_steps:g}"
        shares = [count / one.runs for count in (one.finished, one.stuck, one.dead, one.gave_up)]
        print_line(
            f"{one.player:<10}  {shares[0]:>7.1%}  {shares[1]:>6.1%}  ({least:>6.2%} to {most:>6.2%})"
            f"  {shares[2]:>5.1%}   {shares[3]:>5.1%}  {steps}"
        )
    for one in outcomes:
        if one.runs:
            print_line()
            print_line(f"What {one.player} players meet:")
            for line in _met(one):
                print_line(f"  {line}")
    for one in outcomes:
        if one.lost_by:
            print_line()
            print_line(f"Where {one.player} players get stuck, by the move that loses the level:")
            for move, count in one.lost_by.most_common(5):
                print_line(f"  {count / one.runs:>6.1%}  {move}")
        if one.cut_short:
            print_line(
                f"Of the {one.player} runs given up, {one.cut_short} were cut short: the time was over."
            )
        if one.unsure:
            print_line(
                f"Of the {one.player} runs given up, {one.unsure} may have been stuck: undecided."
            )
    print_line()
    print_line("These are samples: they show what is likely, and prove nothing.")
    print_line(f"To prove what is possible: ukemi check {file}")


def _met(one: Outcome) -> Iterator[str]:
    """The steps of a kind of player, the doors tried in vain, the things never found, and the rooms never entered."""
    if one.steps:
        yield (
            f"{one.usual_steps:g} steps usually; nine in ten of the runs that finish take at most "
            f"{one.steps_of(0.9)}, the longest {max(one.steps)}"
        )
    yield f"{one.again:.0%} of the steps are on ground that they have walked before"
    total = sum(one.spent.values())
    most = sorted(one.spent.items(), key=lambda room: -room[1])[:_NAMED]
    if total:
        yield "most steps in " + ", ".join(f"{room} ({n / total:.0%})" for room, n in most)
    tried = sorted(one.tried.items(), key=lambda door: -door[1][0])[:_NAMED]
    if tried:
        said = (
            f"{door} ({n / one.runs:.0%} of runs, {times / n:.1f} times)"
            for door, (n, times) in tried
        )
        yield f"doors tried without what opens them: {', '.join(said)}"
    missed = sorted(one.missed.items(), key=lambda thing: -thing[1])
    seldom = [f"{thing} ({n / one.runs:.0%} of runs)" for thing, n in missed if n * 20 >= one.runs]
    if seldom:
        yield f"never taken, opened or done: {', '.join(seldom[:_NAMED])}" + _more(len(seldom))
    unseen = [room for room, runs in one.entered.items() if not runs and "@" not in room]
    if unseen:
        yield f"rooms that no run entered: {', '.join(unseen[:_NAMED])}" + _more(len(unseen))


#: The number of rooms, doors and things that are named.
_NAMED = 5


def _more(count: int) -> str:
    return f", and {count - _NAMED} more" if count > _NAMED else ""


def _draw_steps(level: Level_, outcomes: list[Outcome], picture: Path, file: str) -> None:
    """Draw where the players spend their steps."""
    from ..draw import save
    from ..draw.steps_map import draw_steps

    ran = [one for one in outcomes if one.runs]
    runs = sum(one.runs for one in ran) or 1
    spent: Counter[str] = Counter()
    entered: Counter[str] = Counter()
    walked: Counter[tuple[str, str]] = Counter()
    for one in ran:
        spent.update(one.spent)
        entered.update(one.entered)
        walked.update(one.walked)
    title = f"{level.name}: where {in_list([one.player for one in ran])} players spend their steps"
    steps, shares = (
        {room: count / runs for room, count in some.items()} for some in (spent, entered)
    )
    ways = {way: count / runs for way, count in walked.items()}
    save(draw_steps(level, title, steps, shares, ways), picture, inputs=[file])


def _draw(name: str, outcomes: list[Outcome], output: Path, level: str) -> None:
    from ..draw import draw_shares, save

    counts = {
        one.player: {
            "stuck": one.stuck, "died": one.dead, "gave up": one.gave_up, "finished": one.finished
        }
        for one in outcomes
    }  # fmt: skip
    rows = {
        one.player: {end: n / one.runs for end, n in counts[one.player].items() if one.runs}
        for one in outcomes
    }
    sure = {one.player: one.stuck_between for one in outcomes}
    lost_by: dict[str, dict[str, float]] = {}
    for one in outcomes:
        for move, count in one.lost_by.most_common(4):
            lost_by.setdefault(move, {})[one.player] = count / one.runs
    runs = f"{max(one.runs for one in outcomes):,} simulated runs of each kind"
    steps = {one.player: one.steps for one in outcomes}
    figure = draw_shares(f"{name}: {runs}", rows, sure, lost_by, steps=steps)
    save(figure, output, inputs=[level])

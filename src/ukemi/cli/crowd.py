"""``ukemi crowd``: simulated players, beside the proof."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ..files import load
from ..files.json_text import json_text
from ..files.replacing import PICTURES, must_be_writable
from ..level import LevelError
from ..spaces import PLAYED
from .check import MaxPositions, MaxSeconds
from .output import fail, fail_reading, tell
from .play import Level
from .searching import MaxMemory, limits_of, searching

if TYPE_CHECKING:
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
    try:
        if output is not None:
            must_be_writable(output, endings=PICTURES, inputs=[level])
        loaded = load(level)
        with searching(limits_of(max_positions, max_seconds, max_memory)) as limits:
            outcomes = play_crowd(loaded, runs, seed, player or tuple(PLAYERS), patience, limits)
    except LevelError as error:
        fail_reading(error)
    except OSError as error:
        fail(str(error))
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
        if not json:
            tell(f"wrote {output}")


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
        "lost-by": dict(one.lost_by.most_common()),
    }


def _print(name: str, outcomes: list[Outcome], runs: int, seed: int, file: str) -> None:
    tell(f"{name}: {runs:,} runs of each kind of player, seed {seed}")
    tell()
    tell("player      finished   stuck   (95 % sure)     died  gave up  steps, usually")
    for one in outcomes:
        if one.stuck_between is None:
            tell(f"{one.player:<10}  not run: the time was over")
            continue
        least, most = one.stuck_between
        steps = "-" if one.usual_steps is None else f"{one.usual_steps:g}"
        shares = [count / one.runs for count in (one.finished, one.stuck, one.dead, one.gave_up)]
        tell(
            f"{one.player:<10}  {shares[0]:>7.1%}  {shares[1]:>6.1%}  ({least:>6.2%} to {most:>6.2%})"
            f"  {shares[2]:>5.1%}   {shares[3]:>5.1%}  {steps}"
        )
    for one in outcomes:
        if one.lost_by:
            tell()
            tell(f"Where {one.player} players get stuck, by the move that loses the level:")
            for move, count in one.lost_by.most_common(5):
                tell(f"  {count / one.runs:>6.1%}  {move}")
        if one.cut_short:
            tell(
                f"Of the {one.player} runs given up, {one.cut_short} were cut short: the time was over."
            )
        if one.unsure:
            tell(f"Of the {one.player} runs given up, {one.unsure} may have been stuck: undecided.")
    tell()
    tell("These are samples: they show what is likely, and prove nothing.")
    tell(f"To prove what is possible: ukemi check {file}")


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
    try:
        figure = draw_shares(f"{name}: {runs}", rows, sure, lost_by)
        save(figure, output, inputs=[level])
    except OSError as error:
        fail(str(error))

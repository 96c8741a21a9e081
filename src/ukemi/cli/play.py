"""``ukemi play``: a level played by hand, and ``ukemi replay``: a recorded play run again."""

from __future__ import annotations

import shutil
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..checks import Answer
from ..language import load
from ..level.visible import as_line
from ..spaces import PLAYED
from .check import MaxPositions, MaxSeconds
from .output import CANNOT_READ, complain, fail, print_line
from .searching import MaxMemory, limits_of

if TYPE_CHECKING:
    from ..playing.said import Said
    from ..playing.talk import Talk

Level = Annotated[str, typer.Argument(help="A level file.", metavar="LEVEL")]

#: The prompt before a typed line.
ASKING = "your move: "


def play(
    level: Level,
    no_alarm: Annotated[
        bool,
        typer.Option("--no-alarm", help="Do not warn when the level can no longer be finished."),
    ] = False,
    as_player: Annotated[
        bool,
        typer.Option(
            "--as-player",
            help="Show what the player sees and reads: no conditions, nothing hidden.",
        ),
    ] = False,
    max_positions: MaxPositions = PLAYED.positions,
    max_seconds: MaxSeconds = PLAYED.seconds,
    max_memory: MaxMemory = None,
) -> None:
    """Play a level by hand: see your possible moves, which things are still shut, and when the
    level is lost.

    Without a terminal, commands are read from standard input, one a line. Exit code: 0 left while
    the level could be finished, or finished; 1 left stuck or dead; 2 the level cannot be read, or
    a piped command could not be done; 3 undecided.
    """
    from ..playing.talk import Talk

    limits = limits_of(max_positions, max_seconds, max_memory)
    talk = Talk(load(level), not no_alarm, limits, as_player)
    on_terminal = sys.stdin.isatty() and sys.stdout.isatty()
    _show(talk.opening(), on_terminal)
    if on_terminal:
        _at_terminal(talk)
    else:
        _from_pipe(talk)
    _show(talk.closing(), on_terminal)
    raise typer.Exit(_exit_code(talk, on_terminal))


def _exit_code(talk: Talk, on_terminal: bool) -> int:
    if talk.failed and not on_terminal:
        return CANNOT_READ
    if talk.play.ends in ("dead", "stuck"):
        return 1
    return 3 if talk.play.can_finish == Answer.UNKNOWN else 0


def _at_terminal(talk: Talk) -> None:
    from prompt_toolkit import PromptSession
    from prompt_toolkit.completion import CompleteEvent, Completer, Completion
    from prompt_toolkit.document import Document

    class Possible(Completer):
        def get_completions(self, document: Document, event: CompleteEvent) -> Iterator[Completion]:
            typed = document.text_before_cursor.lstrip()
            for line in dict.fromkeys(talk.completions()):
                if line.startswith(typed):
                    yield Completion(line, start_position=-len(typed))

    asking: PromptSession[str] = PromptSession(completer=Possible(), complete_while_typing=False)
    while not talk.leaving:
        try:
            line = asking.prompt(f"\n{ASKING}")
        except KeyboardInterrupt:
            continue  # what was typed is dropped; leaving takes `quit` or the end of input
        except EOFError:
            return
        talk.width = min(60, shutil.get_terminal_size().columns - 1)
        _show(talk.answer(line), on_terminal=True)


def _from_pipe(talk: Talk) -> None:
    for line in sys.stdin:
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        print_line()
        print_line(f"{ASKING}{line.strip()}")
        cut = not line.endswith("\n")
        failed_before, talk.failed = talk.failed, False
        said = talk.answer(line, whole=cut)
        if cut and talk.failed:
            complain(f"the input ends in the middle of a line: `{line.strip()}` was not done")
        talk.failed = talk.failed or failed_before
        _show(said, on_terminal=False)
        if talk.leaving:
            return


def _show(said: Iterable[Said], on_terminal: bool) -> None:
    from ..playing.said import as_text, wrapped

    if not on_terminal:
        print(as_text(said))
        return
    from rich.console import Console
    from rich.text import Text

    width = shutil.get_terminal_size().columns
    console = Console(highlight=False, width=width)
    styles = {"good": "bold green", "bad": "bold red", "title": "bold"}
    for one in said:
        for line in wrapped(one, width - 1):
            console.print(Text(as_line(line), style=styles.get(one.style, "")), soft_wrap=True)


def replay(
    level: Level,
    session: Annotated[
        Path, typer.Argument(help="A session that `save` wrote.", metavar="SESSION")
    ],
    max_positions: MaxPositions = PLAYED.positions,
    max_seconds: MaxSeconds = PLAYED.seconds,
    max_memory: MaxMemory = None,
) -> None:
    """Run a recorded play against a level: a test that it still goes as it went.

    Exit code: 0 it goes as recorded; 1 a move no longer works, or it ends otherwise; 2 the level or
    the session cannot be read; 3 undecided.
    """
    from ..playing.keeping import read_file
    from ..playing.replaying import replay_session
    from ..playing.session import SessionError
    from ..rules.words import move_words

    try:
        loaded = load(level)
        recorded = read_file(session, loaded.name)
        limits = limits_of(max_positions, max_seconds, max_memory)
        done = replay_session(loaded, recorded, limits)
    except SessionError as error:
        fail(str(error))
    moves = len(recorded.moves)
    if done.failed is not None:
        what = move_words(recorded.moves[done.failed - 1])
        print_line(f"{loaded.name}: move {done.failed} of {moves} no longer works: `{what}`")
        print_line(f"  why: {done.why}")
    else:
        print_line(f"{loaded.name}: every move works ({moves} moves, {done.play.steps} steps)")
        print_line(f"  it ends {done.play.ends}; recorded: {done.recorded}")
    if done.lost is not None and done.recorded not in ("stuck", "dead"):
        after = f"after move {done.lost}, `{move_words(recorded.moves[done.lost - 1])}`"
        print_line(
            f"  {after if done.lost else 'from the start'}, nothing finishes the level any more"
        )
    if done.works == Answer.UNKNOWN:
        print_line("  whether it can still be finished at the end is undecided")
    raise typer.Exit({Answer.YES: 0, Answer.UNKNOWN: 3}.get(done.works, 1))

"""The ``ukemi`` command."""

from __future__ import annotations

import gc
import os
import signal
import sys
from collections.abc import Callable
from types import FrameType
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from .check import check
from .compare import compare
from .convert import convert
from .crowd import crowd
from .demo import demo
from .draw import draw
from .explain import explain
from .language_server import language_server
from .mend import mend
from .new import new
from .play import play, replay
from .report import report
from .scatter import scatter
from .schema import schema
from .watch import watch

#: The commands, in the order of a designer's day.
COMMANDS: dict[str, dict[str, Callable[..., None]]] = {
    "Begin": {"demo": demo, "new": new},
    "Check": {"check": check, "explain": explain, "mend": mend, "draw": draw, "report": report},
    "Try by hand": {"play": play, "replay": replay, "crowd": crowd},
    "Change, and look again": {"watch": watch, "compare": compare, "scatter": scatter},
    "With other programs": {
        "convert": convert,
        "schema": schema,
        "language-server": language_server,
    },
}


class _Grouped(TyperGroup):
    """The commands, in groups."""

    def list_commands(self, ctx: Any) -> list[str]:
        """The names of the commands, in order."""
        return [name for commands in COMMANDS.values() for name in commands]

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        """Tell each group under its title."""
        for title, names in COMMANDS.items():
            commands = [(name, self.get_command(ctx, name)) for name in names]
            rows = [
                (name, one.get_short_help_str(200)) for name, one in commands if one is not None
            ]
            with formatter.section(title):
                formatter.write_dl(rows)


app = typer.Typer(
    name="ukemi",
    cls=_Grouped,
    help="Proves that a level of keys, locks and passages can always be completed.",
    no_args_is_help=True,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
)
for _commands in COMMANDS.values():
    for _name, _command in _commands.items():
        app.command(name=_name)(_command)


def _version(wanted: bool) -> None:
    if wanted:
        from .. import __version__

        print(f"ukemi {__version__}")
        raise typer.Exit


@app.callback()
def _main(
    version: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version.")
    ] = False,
) -> None:
    pass


def run() -> None:
    """Run the command line; a reader that goes away early is no error."""
    # A search keeps millions of small values that are no cycles: looking for cycles among them as
    # often as Python does by itself takes as long as the search.
    gc.freeze()
    gc.set_threshold(200_000, 20, 20)
    _stand_in_for_closed_streams()
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")
    signal.signal(signal.SIGTERM, _leave)
    try:
        try:
            app()
        finally:
            if not sys.stdout.closed:  # a language server leaves it so
                sys.stdout.flush()
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        sys.exit(1)


def _leave(number: int, frame: FrameType | None) -> None:
    """End as if by an exception, so that half-written files are cleared away."""
    sys.exit(128 + number)


def _stand_in_for_closed_streams() -> None:
    """Open what the command was started without, so that no file takes its number."""
    for number, (name, mode) in enumerate([("stdin", "r"), ("stdout", "w"), ("stderr", "w")]):
        if getattr(sys, name) is None:
            opened = os.open(os.devnull, os.O_RDWR)
            if opened != number:
                os.dup2(opened, number)
            setattr(sys, name, os.fdopen(number, mode))

"""The ``ukemi`` command."""

from __future__ import annotations

import gc
import os
import signal
import sys
from collections.abc import Callable
from functools import wraps
from importlib import import_module
from types import FrameType
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from ..level import LevelError
from ..level.names import nearest
from .output import fail, fail_reading

#: The commands, in the order of a designer's day, each with the file of this folder that it is in.
COMMANDS: dict[str, dict[str, str]] = {
    "Begin": {"demo": "demo", "new": "new"},
    "Check": {
        "check": "check",
        "explain": "explain",
        "mend": "mend",
        "draw": "draw",
        "report": "report",
    },
    "Try by hand": {"play": "play", "replay": "play", "crowd": "crowd"},
    "Change, and look again": {"watch": "watch", "compare": "compare", "scatter": "scatter"},
    "With other programs": {
        "convert": "convert",
        "schema": "schema",
        "language-server": "language_server",
    },
}
_FILES = {name: file for commands in COMMANDS.values() for name, file in commands.items()}


def _reporting(command: Callable[..., Any]) -> Callable[..., Any]:
    """Wrap a command: if something cannot be read or written, it ends with a message and the code for that."""

    @wraps(command)
    def run(*arguments: Any, **options: Any) -> Any:
        try:
            return command(*arguments, **options)
        except LevelError as error:
            fail_reading(error)
        except BrokenPipeError:
            raise  # a reader that went away is no error
        except OSError as error:
            named = error.filename is not None  # else the message itself names the file
            fail(f"{error.filename}: {error.strerror}" if named else str(error))

    return run


class _Grouped(TyperGroup):
    """The commands, in groups; each is loaded when it is asked for."""

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        """The command of a name; ``None`` if there is none."""
        if cmd_name not in _FILES:
            return None
        module = import_module(f"{__package__}.{_FILES[cmd_name]}")
        alone = typer.Typer(
            rich_markup_mode=None, pretty_exceptions_enable=False, add_completion=False
        )
        alone.command(name=cmd_name)(_reporting(getattr(module, cmd_name.replace("-", "_"))))
        return typer.main.get_command(alone)

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        """The command that is meant; a message with the nearest name if there is none."""
        if args and args[0] not in _FILES and not args[0].startswith("-"):
            near = nearest(args[0], _FILES)
            hint = f" Did you mean {near!r}?" if near else ""
            ctx.fail(f"No such command {args[0]!r}.{hint}")
        return super().resolve_command(ctx, args)

    def list_commands(self, ctx: Any) -> list[str]:
        """The names of the commands, in order."""
        return list(_FILES)

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        """Print each group under its title."""
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
    """Open the standard streams that are closed, so that no other file gets their numbers."""
    for number, (name, mode) in enumerate([("stdin", "r"), ("stdout", "w"), ("stderr", "w")]):
        if getattr(sys, name) is None:
            opened = os.open(os.devnull, os.O_RDWR)
            if opened != number:
                os.dup2(opened, number)
            setattr(sys, name, os.fdopen(number, mode))

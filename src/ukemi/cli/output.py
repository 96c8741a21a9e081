"""Error messages of the commands."""

from __future__ import annotations

import sys
from typing import NoReturn

import typer

from ..level import LevelError
from ..level.visible import as_line

#: The exit code of a call or a level that cannot be read.
CANNOT_READ = 2


def tell(line: str = "") -> None:
    """Print a line on standard output; what is hidden in a name of the level is shown."""
    print(as_line(line))


def complain(*lines: str) -> None:
    """Print lines of an error message on standard error."""
    for line in lines:
        print(as_line(line), file=sys.stderr)


def fail(message: str) -> NoReturn:
    """Print an error message, and end with the code for what cannot be read."""
    complain(message)
    raise typer.Exit(CANNOT_READ)


def fail_reading(error: LevelError) -> NoReturn:
    """Print what is wrong with a level, and end."""
    complain(*error.lines())
    raise typer.Exit(CANNOT_READ)

"""Error messages of the commands."""

from __future__ import annotations

import sys
from typing import NoReturn

import typer

from ..level import LevelError

#: The exit code of a call or a level that cannot be read.
CANNOT_READ = 2


def complain(message: str) -> None:
    """Print an error message on standard error."""
    print(message, file=sys.stderr)


def fail(message: str) -> NoReturn:
    """Print an error message, and end with the code for what cannot be read."""
    complain(message)
    raise typer.Exit(CANNOT_READ)


def fail_reading(error: LevelError) -> NoReturn:
    """Print what is wrong with a level, and end."""
    fail("\n".join(error.lines()))

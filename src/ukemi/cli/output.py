"""Consoles and error messages of the commands."""

from __future__ import annotations

import sys
from functools import lru_cache
from typing import TYPE_CHECKING, NoReturn

import typer

from ..level import LevelError

if TYPE_CHECKING:
    from rich.console import Console

#: The exit code of a call or a level that cannot be read.
CANNOT_READ = 2


@lru_cache(maxsize=1)
def console() -> Console:
    """The console on standard output."""
    from rich.console import Console

    return Console(highlight=False, markup=False, soft_wrap=False)


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

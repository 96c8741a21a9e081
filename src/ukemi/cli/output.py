"""Error messages of the commands."""

from __future__ import annotations

import sys
from collections.abc import Mapping, Sequence
from typing import Any, NoReturn

import typer

from ..level import LevelError
from ..level.visible import as_line

#: The exit code of a call or a level that cannot be read.
CANNOT_READ = 2


def print_line(line: str = "") -> None:
    """Print a line on standard output, with hidden characters in names made visible."""
    print(as_line(line))


def complain(*lines: str) -> None:
    """Print lines of an error message on standard error."""
    for line in lines:
        print(as_line(line), file=sys.stderr)


def fail(message: str) -> NoReturn:
    """Print an error message, and end with the code for what cannot be read."""
    complain(message)
    raise typer.Exit(CANNOT_READ)


def fail_reading(*errors: LevelError) -> NoReturn:
    """Print what is wrong with some levels, and end."""
    for error in errors:
        complain(*error.lines())
    raise typer.Exit(CANNOT_READ)


def csv_text(rows: Sequence[Mapping[str, Any]]) -> str:
    """Rows as CSV with a header; a spreadsheet takes nothing in it for a formula.

    Args:
        rows: The rows; a missing column is empty.

    Example:
        >>> print(csv_text([{"file": "=mill", "steps": 3}, {"file": "quay"}]), end="")
        file,steps
        '=mill,3
        quay,
    """
    import csv
    from io import StringIO

    text = StringIO()
    columns = list(dict.fromkeys(name for row in rows for name in row))
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow(columns)
    for row in rows:
        values = ["" if row.get(name) is None else row[name] for name in columns]
        writer.writerow(
            [f"'{v}" if isinstance(v, str) and v[:1] in _FORMULA else v for v in values]
        )
    return text.getvalue()


#: The characters that begin a formula.
_FORMULA = frozenset("=+-@\t\r")

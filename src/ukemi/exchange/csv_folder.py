"""A level as a folder of CSV files, a table each, as spreadsheets read and write them."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Iterator, Mapping
from io import StringIO
from pathlib import Path
from typing import Any

from ..language.files.loading import csv_rows, regular_bytes
from ..language.files.replacing import write_file
from .tables import COLUMNS, TableError, Tables, escaped, unescaped

#: The most bytes of a table.
LARGEST = 32 * 1024 * 1024


def write_tables(tables: Tables, folder: Path, over: bool = True) -> list[Path]:
    """Write tables to a folder; a file is replaced whole or not at all.

    Args:
        tables: The tables.
        folder: The folder; it is made where it is not there.
        over: Whether files that are there may be replaced.

    Raises:
        OSError: A table cannot be written.
    """
    folder.mkdir(parents=True, exist_ok=True)
    return [
        write_table(folder / f"{name}.csv", COLUMNS[name], rows, over)
        for name, rows in tables.rows.items()
    ]


def write_table(
    file: Path, columns: Iterable[str], rows: Iterable[Mapping[str, Any]], over: bool = True
) -> Path:
    """Write one table; the file is replaced whole or not at all.

    Args:
        columns: The columns, in order.
        rows: The rows.
        over: Whether a file that is there may be replaced.

    Raises:
        OSError: It cannot be written.
    """
    text = StringIO()
    writer = csv.DictWriter(text, [*columns], lineterminator="\n")
    writer.writeheader()
    writer.writerows(
        {name: "" if cell is None else escaped(str(cell)) for name, cell in row.items()}
        for row in rows
    )
    write_file(file, text.getvalue(), over=over)
    return file


def read_tables(folder: Path) -> Tables:
    """Read tables from a folder; one that is not there is empty.

    Raises:
        TableError: A table cannot be read, or has a column that no table of its name has.
    """
    tables = Tables()
    found = False
    for name, columns in COLUMNS.items():
        file = folder / f"{name}.csv"
        if not file.exists():
            continue
        found = True
        try:
            rows = csv_rows(regular_bytes(file, LARGEST, folder))
        except UnicodeDecodeError as error:
            row = error.object.count(b"\n", 0, error.start) + 1
            message = f"the byte 0x{error.object[error.start]:02x} is not UTF-8 text"
            raise TableError(f"{name}, row {row}: {message}") from None
        except (OSError, ValueError) as error:
            reason = getattr(error, "strerror", None) or str(error)
            raise TableError(f"{name}: cannot read {file}: {reason.lower()}") from None
        tables.rows[name] += _cells(name, rows, columns)
    if not found:
        listed = ", ".join(f"{name}.csv" for name in COLUMNS)
        raise TableError(f"there is none of {listed} in this folder")
    return tables


def _cells(name: str, rows: list[list[str]], columns: tuple[str, ...]) -> Iterator[dict[str, str]]:
    """The rows of a table by column; columns and rows that are empty all the way are left out."""
    header = [one.strip() for one in rows[0]] if rows else []
    for number, column in enumerate(header):
        if column and column not in columns:
            raise TableError(_no_column(name, column, columns))
        if column and column in header[:number]:
            raise TableError(f"{name}, row 1: the column {column!r} is there twice")
    for row, cells in enumerate(rows[1:], 2):
        for number, text in enumerate(cells):
            if text.strip() and (number >= len(header) or not header[number]):
                where = f"{name}, row {row}, column {number + 1}"
                raise TableError(f"{where}: {text.strip()!r} is below no header")
        if any(text.strip() for text in cells):
            pairs = zip(header, cells, strict=False)
            yield {column: unescaped(text) for column, text in pairs if column}


def _no_column(table: str, column: str, columns: tuple[str, ...]) -> str:
    from ..level.names import nearest

    near = nearest(column, columns)
    hint = f"; did you mean {near!r}?" if near else f"; it has {', '.join(columns)}"
    return f"{table}, row 1: there is no column {column!r}{hint}"

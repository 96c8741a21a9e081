"""A level as a folder of CSV files, a table each, as spreadsheets read and write them."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Mapping
from io import StringIO
from pathlib import Path
from typing import Any

from ..files.writing import write_file
from .tables import COLUMNS, TableError, Tables

#: The most bytes of a table.
LARGEST = 32 * 1024 * 1024


def write_tables(tables: Tables, folder: Path, over: bool = True) -> list[Path]:
    """Write tables to a folder; a file is replaced whole or not at all.

    Args:
        tables: The tables.
        folder: The folder; it is made where it is not there.
        over: Whether files that are there may be replaced.

    Returns:
        The files.

    Raises:
        OSError: One of them cannot be written.
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
        file: The file.
        columns: The columns, in order.
        rows: The rows.
        over: Whether a file that is there may be replaced.

    Returns:
        The file.

    Raises:
        OSError: It cannot be written.
    """
    text = StringIO()
    writer = csv.DictWriter(text, [*columns], lineterminator="\n")
    writer.writeheader()
    writer.writerows(rows)
    write_file(file, text.getvalue(), over=over)
    return file


def read_tables(folder: Path) -> Tables:
    """Read tables from a folder; one that is not there is empty.

    Args:
        folder: The folder.

    Returns:
        The tables.

    Raises:
        TableError: One of them cannot be read, or has a column that no table of its name has.
    """
    tables = Tables()
    found = False
    for name, columns in COLUMNS.items():
        file = folder / f"{name}.csv"
        if not file.exists():
            continue
        found = True
        try:
            if file.stat().st_size > LARGEST:
                raise TableError(f"{name}: it has more than {LARGEST:,} bytes")
            with file.open(encoding="utf-8-sig", newline="") as opened:
                reader = csv.DictReader(opened, restkey="\0")
                header = [one.strip() for one in reader.fieldnames or ()]
                for column in header:
                    if column not in columns:
                        raise TableError(_no_column(name, column, columns))
                reader.fieldnames = header
                for number, row in enumerate(reader, 2):
                    if "\0" in row:
                        raise TableError(f"{name}, row {number}: it has more cells than the header")
                    if any(row.values()):
                        tables.rows[name].append({key: text or "" for key, text in row.items()})
        except (OSError, UnicodeDecodeError, csv.Error) as error:
            reason = getattr(error, "strerror", None) or str(error)
            raise TableError(f"{name}: cannot read {file}: {reason.lower()}") from None
    if not found:
        listed = ", ".join(f"{name}.csv" for name in COLUMNS)
        raise TableError(f"{folder}: there is none of {listed} in this folder")
    return tables


def _no_column(table: str, column: str, columns: tuple[str, ...]) -> str:
    from ..level.names import nearest

    near = nearest(column, columns)
    hint = f"; did you mean {near!r}?" if near else f"; it has {', '.join(columns)}"
    return f"{table}, row 1: there is no column {column!r}{hint}"

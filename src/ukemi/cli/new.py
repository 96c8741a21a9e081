"""``ukemi new``: a small commented level to start from."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..demo import starter
from ..files.writing import write_file
from .output import fail, tell


def new(
    file: Annotated[Path, typer.Argument(help="The level file to write; it must not exist yet.")],
    map: Annotated[bool, typer.Option("--map", help="A level on a tile map.")] = False,
    rooms: Annotated[bool, typer.Option("--rooms", help="A level of rooms and passages.")] = False,
) -> None:
    """Write a small commented level to start from, never over a file that exists."""
    if map == rooms:
        fail("ukemi new: say either --map or --rooms")
    try:
        write_file(file, starter("map" if map else "rooms"), over=False)
    except OSError as error:
        fail(str(error))
    tell(f"wrote {file}; try `ukemi check {file}`")

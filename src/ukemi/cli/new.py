"""``ukemi new``: a small commented level to start from."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..demo import starter
from .output import fail


def new(
    file: Annotated[Path, typer.Argument(help="The level file to write; it must not exist yet.")],
    map: Annotated[bool, typer.Option("--map", help="A level on a tile map.")] = False,
    rooms: Annotated[bool, typer.Option("--rooms", help="A level of rooms and passages.")] = False,
) -> None:
    """Write a small commented level to start from, never over a file that exists."""
    if map == rooms:
        fail("ukemi new: say either --map or --rooms")
    try:
        with file.open("x", encoding="utf-8") as out:
            out.write(starter("map" if map else "rooms"))
    except FileExistsError:
        fail(f"{file}: there is such a file already; it was left as it is")
    except OSError as error:
        fail(f"{file}: cannot write this file: {(error.strerror or str(error)).lower()}")
    print(f"wrote {file}; try `ukemi check {file}`")

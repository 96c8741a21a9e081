"""``ukemi new``: a small commented level to start from."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..demo import starter
from ..language.files.replacing import write_file
from .output import fail, print_line


def new(
    file: Annotated[Path, typer.Argument(help="The level file to write; it must not exist yet.")],
    map: Annotated[bool, typer.Option("--map", help="A level on a tile map.")] = False,
    rooms: Annotated[bool, typer.Option("--rooms", help="A level of rooms and passages.")] = False,
    campaign: Annotated[
        bool, typer.Option("--campaign", help="A campaign, with two levels beside it.")
    ] = False,
) -> None:
    """Write a small commented level to start from, never over a file that exists."""
    if map + rooms + campaign != 1:
        fail("ukemi new: say one of --rooms, --map and --campaign")
    texts = {file: starter("map" if map else "rooms" if rooms else "campaign")}
    if campaign:
        texts |= {
            file.parent / f"{one}.yaml": starter(one) for one in ("first-level", "second-level")
        }
    there = next((str(one) for one in texts if one.exists()), None)
    if campaign and there is not None:
        fail(f"{there} exists already; nothing was written")
    for path, text in texts.items():
        write_file(path, text, over=False)
    print_line(f"wrote {', '.join(str(one) for one in texts)}; try `ukemi check {file}`")

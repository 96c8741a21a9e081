"""``unconnected``: a room that no passage leads to."""

from __future__ import annotations

from collections.abc import Iterator

from ...level import Level
from ...level.names import in_list
from ..finding import Finding
from ..registry import layout


@layout
def unconnected(level: Level) -> Iterator[Finding]:
    """Report each room that cannot be walked to from any start, were every door open."""
    starts = level.start_rooms()
    reached = level.connected(starts)
    goes_out = {a for passage in level.passages for a, _ in passage.walks()}
    for room in level.rooms.values():
        if room.beside or room.used_from is not None:
            continue  # mere floor of a map, or a solid cell: no player is meant to stand there
        if room.name not in reached:
            out = "; passages only lead out of it" if room.name in goes_out else ""
            message = f"No passage leads from {in_list(starts, 'or')} to {room.name}, by whatever way{out}."
            mend = f"add a passage to {room.name}, or take the room out"
            yield Finding("unconnected", "warning", room.name, message, "", mend, room.place)

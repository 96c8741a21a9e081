"""``opens-elsewhere``: in a campaign, a key that is carried on and opens a lock of a later level."""

from __future__ import annotations

from collections.abc import Iterator

from ...graph import closure
from ...level import Level
from ...level.asked import all_locks, items_in
from ...level.joined import Joined
from ...level.names import in_list
from ...level.sources import sources
from ..finding import Finding
from ..registry import layout


@layout
def opens_elsewhere(level: Level) -> Iterator[Finding]:
    """Report each lock of a level that has a key of its own there, and that a carried key opens too."""
    if not isinstance(level, Joined):
        return
    stage_of = {room: name for name, rooms in level.rooms_of.items() for room in rooms}
    placed_in: dict[str, set[str]] = {}
    for source in sources(level):
        if source.room in stage_of:
            for gift in source.gives:
                placed_in.setdefault(gift, set()).add(stage_of[source.room])
    for lock, subject, place in all_locks(level):
        here = subject.partition("/")[0]
        for name in sorted(items_in(lock.needs)):
            item = level.items.get(name)
            if item is None or item.kind != "key" or here not in placed_in.get(name, ()):
                continue
            earlier = [
                stage for stage in level.campaign.stages
                if stage != here and stage in placed_in[name] and _carried(level, name, stage, here)
            ]  # fmt: skip
            if earlier:
                severity = "warning" if item.use == "kept" else "note"
                message = (
                    f"{subject} opens also with the {name} of {in_list(earlier)}: "
                    f"who carries that one can do without the one placed in {here}."
                )
                mend = f"call one of the keys otherwise, or leave {name} out of `brings`"
                yield Finding("opens-elsewhere", severity, subject, message, "", mend, place)


def _carried(level: Joined, item: str, start: str, end: str) -> bool:
    """Whether an item can be carried from one level of a campaign to another."""
    campaign = level.campaign
    bringing = [way for way in campaign.ways if campaign.stages[way.b].brings_along(item)]
    return end in closure([start], lambda here: (way.b for way in bringing if way.a == here))

"""Corrections of a campaign: ways, what they ask for, and what is brought along."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import chain, permutations
from typing import Any

from ..checks import Finding, Report
from ..language.text.editing import Edit, plain
from ..level import ALWAYS
from ..level.campaign import Onward
from ..level.joined import Joined
from .correction import GATED, LIKELY, POSSIBLE, SURE, UNLIKELY, Correction
from .level_corrections import level_corrections
from .map_corrections import map_corrections
from .site import Site
from .statements import with_field
from .way_corrections import walk_corrections


def campaign_corrections(
    level: Joined, report: Report, findings: Sequence[Finding]
) -> Iterator[Correction]:
    """Yield every correction of a campaign: of its own file and of the files of its levels.

    Args:
        level: The levels of the campaign as one.
        report: The check of the campaign.
        findings: The findings to mend.
    """
    yield from _of_own_file(level)
    for finding in findings:
        if finding.code == "left-behind":
            yield from _left_behind(level, finding)
    for name, stage in level.campaign.stages.items():
        file = stage.level.file
        if file is not None and file in level.texts:
            document = plain(level.texts[file], file)
            site, *others = [Site(stage.level, document, report, one, name) for one in findings]
            of_walks = chain.from_iterable(map(walk_corrections, others))
            for one in chain(level_corrections(site), map_corrections(document), of_walks):
                say = f"in {name}: {one.say}"
                yield replace(one, say=say, unlikely=one.unlikely + 1, file=file)


def _left_behind(level: Joined, finding: Finding) -> Iterator[Correction]:
    """Let a way ask for what must come along."""
    stage, _, item = finding.subject.partition("/")
    campaign = level.campaign
    file = str(campaign.file)
    document = plain(level.texts[file], file)
    for number, way in enumerate(campaign.ways):
        most = sum(one.level.placed(item) for one in campaign.stages.values())
        for units in range(1, min(3, most) + 1) if way.b == stage else ():
            wants = f"{units} {item}" if units > 1 else item
            when = f"({way.when}) and {wants}" if way.when != ALWAYS else wants
            edits = _with_when(document, campaign.ways, number, when)
            say = f"let the way {way.name} ask for {wants}"
            yield Correction(say, say, GATED, tuple(edits), file=file)


def _with_when(document: Any, ways: Sequence[Onward], number: int, when: str) -> list[Edit]:
    """Return the edits that let a way ask for something; a campaign without written ways gets them."""
    if "ways" not in document:
        said = [
            {one.name: {"when": when}} if n == number else one.name for n, one in enumerate(ways)
        ]
        return [Edit(("ways",), said)]
    return with_field(("ways", number), document["ways"][number], "when", when)


def _of_own_file(level: Joined) -> Iterator[Correction]:
    file = str(level.file)
    document = plain(level.texts[file], file)
    levels = document.get("levels") or {}
    for name, said in levels.items():
        if isinstance(said, dict) and "brings" in said:
            left = {key: one for key, one in said.items() if key != "brings"}
            new: Any = left["file"] if set(left) == {"file"} else left
            say = f"let everything come along into {name}"
            yield Correction(say, "brings", LIKELY, (Edit(("levels", name), new),), file=file)
            if isinstance(said["brings"], list):
                for item in sorted({*level.items} - {*said["brings"]}):
                    edit = Edit(("levels", name, "brings"), [*said["brings"], item])
                    yield Correction(
                        f"let {item} come along into {name}", "brings", LIKELY, (edit,), file=file
                    )
    goal = document.get("goal")
    for name in levels:
        if isinstance(goal, str) and name != goal:
            yield Correction(
                f"let the goal be {name}", "goal", UNLIKELY, (Edit(("goal",), name),), file=file
            )
    ways = document.get("ways")
    if not isinstance(ways, list):
        return
    written = [next(iter(one)) if isinstance(one, dict) else one for one in ways]
    for number, text in enumerate(written):
        a, _, b = (part.strip() for part in text.partition("->"))
        said = ways[number]
        fields = (next(iter(said.values())) if isinstance(said, dict) else None) or {}
        turned = f"{b} -> {a}"
        yield Correction(
            f"let the way {text} lead from {b} to {a}", "turned", LIKELY,
            (Edit(("ways", number), {turned: fields} if fields else turned),), file=file,
        )  # fmt: skip
        if "when" not in fields and a in level.campaign.stages:
            for when, unlikely in _whens(level, a):
                edit = Edit(("ways", number), {text: {**fields, "when": when}})
                yield Correction(
                    f"let the way {text} ask for {when}",
                    f"when {number}",
                    unlikely,
                    (edit,),
                    file=file,
                )
        elif "when" in fields:
            left = {key: one for key, one in fields.items() if key != "when"}
            edit = Edit(("ways", number), {text: left} if left else text)
            yield Correction(
                f"let the way {text} ask for nothing", "no when", UNLIKELY, (edit,), file=file
            )
    order = [*levels]
    for a, b in permutations(order, 2):
        if f"{a} -> {b}" not in written:
            next_to = order.index(b) - order.index(a) == 1
            unlikely = SURE if next_to else POSSIBLE
            at = sum(
                order.index(one.split()[0]) <= order.index(a)
                for one in written
                if one.split()[0] in order
            )
            new_ways = [*ways[:at], f"{a} -> {b}", *ways[at:]]
            yield Correction(
                f"add the way {a} -> {b}",
                "new way",
                unlikely,
                (Edit(("ways",), new_ways),),
                file=file,
            )
            for when, more in _whens(level, a):
                new_ways = [*ways[:at], {f"{a} -> {b}": {"when": when}}, *ways[at:]]
                say = f"add the way {a} -> {b}, which asks for {when}"
                yield Correction(
                    say,
                    f"new way when {when}",
                    unlikely + more - 0.6,
                    (Edit(("ways",), new_ways),),
                    file=file,
                )


def _whens(level: Joined, stage: str) -> Iterator[tuple[str, float]]:
    """Return what a way out of a level may ask for: where it ended, or what is carried on from it."""
    inside = level.campaign.stages[stage].level
    goal = str(inside.goal)
    for room in re.findall(r"at ([\w@,-]+)", goal):
        yield f"at {room}", LIKELY
    for name, item in inside.items.items():
        if item.kind != "supply" and inside.placed(name):
            yield name, LIKELY + 0.2

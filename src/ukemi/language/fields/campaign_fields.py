"""Read a campaign: its levels, the ways between them, the claims about all of it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Any

from ...level.campaign import CampaignParts, Onward, Stage
from ...level.conditions import At, Condition, Has
from ...level.item import Item
from ...level.joined import Joined
from ...level.level import Level
from ...level.names import NAME_PATTERN, NAME_SCHEMA, in_list, nearest
from ...level.problems import LevelError, Problem
from ...level.sense import all_effects
from ...level.settings import Expect
from ...values import dataclass, fields
from .accepted import Accept
from .fields import Field, Fields
from .nodes import TEXT, Node, place_of, shown
from .notes import BadValue, Notes, bad
from .resolve import check_condition, resolve
from .room_fields import Named
from .types import (
    NAME,
    BoolType,
    ConditionType,
    NewName,
    Schema,
    Several,
    TextType,
    by_name,
    text_or_one_field,
)
from .whole import ExpectType, Version

#: Reads the level that a campaign names.
LevelReader = Callable[[str], Level]

_header = re.compile(rf"\s*({NAME_PATTERN})\s*->\s*({NAME_PATTERN})\s*").fullmatch


class Brings:
    """The carried items that come along: names of items, ``all`` or ``nothing``."""

    _names = Several(NewName("an item"))

    def read(self, notes: Notes, node: Node) -> tuple[frozenset[str] | None, Node]:
        if node.id == "scalar" and node.value in ("all", "nothing"):
            return (None if node.value == "all" else frozenset()), node
        return frozenset(self._names.read(notes, node)), node

    def schema(self) -> Schema:
        return self._names.schema()


STAGE = Fields(
    "a level of a campaign",
    Field("file", TextType(), "The level file, in the campaign's folder or below it."),
    Field("brings", Brings(), "The carried items that come along: items, `all` or `nothing`."),
    Field("keeps", BoolType(), "It is found as it was left. Default: false."),
)

WAY = Fields(
    "a way between levels",
    Field("when", ConditionType(), "The condition for it as the level before is finished."),
    Field(
        "sets",
        Several(NewName("a flag")),
        "Flags turned on: shared, or of the level it leads to.",
        attr="turns_on",  # effects are of one level, and this is of two
    ),
)


@dataclass(slots=True)
class _StageSaid:
    """The entry of a level in a campaign."""

    name: str
    key: Node
    file: str
    file_at: Node
    brings: frozenset[str] | None = None
    brings_at: Node | None = None
    keeps: bool = False


class Stages(Named):
    """The levels, each its file or a mapping with its file."""

    def __init__(self) -> None:
        super().__init__("a level", STAGE, _StageSaid)

    def one(self, notes: Notes, name: str, value: Node, key: Node) -> _StageSaid:
        if value.id == "scalar" and value.tag == TEXT:
            return _StageSaid(name, key, value.value, value)
        said = STAGE.read(notes, value)
        if "file" not in said:
            raise bad("bad-value", f"level {name!r} does not say which `file` it is", key)
        brings, node = said.get("brings", (None, None))
        at = next(one for field, one in value.value if field.value == "file")
        return _StageSaid(name, key, said["file"], at, brings, node, said.get("keeps", False))

    def schema(self) -> Schema:
        one = {"anyOf": [{"type": "string"}, STAGE.schema()]}
        return by_name(one) | {"minProperties": 1}


class Ways:
    """The ways between levels: a list, each ``landing -> mill`` or that with its fields."""

    def read(self, notes: Notes, node: Node) -> list[tuple[str, str, dict[str, Any], Node]]:
        if node.id != "sequence":
            message = f"ways is a list, one '- landing -> mill' a line, not {shown(node)}"
            raise bad("bad-value", message, node)
        return [self._one(notes, one) for one in node.value]

    def _one(self, notes: Notes, node: Node) -> tuple[str, str, dict[str, Any], Node]:
        header, fields = node, None
        if node.id == "mapping" and len(node.value) == 1:
            header, fields = node.value[0]
        match = _header(header.value) if header.id == "scalar" else None
        if match is None:
            raise bad("bad-value", f"{shown(header)} is no way: write 'level -> level'", header)
        said = WAY.read(notes, fields) if fields is not None else {}
        if fields is not None and fields.id == "mapping":
            said["nodes"] = {key.value: value for key, value in fields.value}
        return match[1], match[2], said, header

    def schema(self) -> Schema:
        text = rf"^\s*{NAME_SCHEMA}\s*->\s*{NAME_SCHEMA}\s*$"
        return {"type": "array", "items": {"anyOf": text_or_one_field(text, WAY.schema())}}


class StageName:
    """The name of a level of the campaign."""

    def read(self, notes: Notes, node: Node) -> Node:
        if node.id == "scalar" and node.tag == TEXT:
            return node
        raise bad("bad-value", f"this must be the name of a level, not {shown(node)}", node)

    def schema(self) -> Schema:
        return NAME


CAMPAIGN = Fields(
    "a campaign",
    Field("ukemi", Version(), "The version of this format: 1."),
    Field("campaign", TextType(), "The campaign's name."),
    Field("levels", Stages(), "The levels, by the names the campaign gives them."),
    Field("ways", Ways(), "The ways between them. Default: one after the other."),
    Field("goal", StageName(), "The level that ends the campaign. Default: the last."),
    Field("shares", Several(NewName("a flag")), "Flags that all levels share."),
    Field("expect", ExpectType(), "Your claims about the campaign; names as LEVEL/NAME."),
    Field("accept", Accept(), "Findings that are meant as they are; names as LEVEL/NAME."),
)


def read_campaign(node: Node, file: str | None, read_level: LevelReader) -> Joined:
    """Read a campaign from raw values.

    Args:
        node: The whole file as a mapping.
        file: The file's name, for messages.
        read_level: Reads a level file that the campaign names.

    Raises:
        LevelError: With all that is wrong, in the order of the file.
    """
    notes = Notes()
    try:
        said = CAMPAIGN.read(notes, node)
    except BadValue as error:
        raise LevelError([error.problem], file) from None
    if "campaign" not in said and not notes.problems:
        message = "the campaign has no name; add a line such as `campaign: A Year at the Mill`"
        notes.add("bad-value", message, node)
    if not said.get("levels"):
        if not notes.problems:
            message = "the campaign has no levels: name them under `levels`"
            notes.add("bad-value", message, node)
        raise LevelError(notes.problems, file)
    stages = dict(_stages(said["levels"], notes, read_level))
    if not notes.problems:
        campaign = _campaign(said, stages, notes, file)
        campaign.places = {key.value: at for key, _ in node.value if (at := place_of(key))}
    if notes.problems:
        raise LevelError(sorted(notes.problems, key=lambda one: one.place or (0, 0)), file)
    joined = Joined(campaign)
    for message, at in joined_problems(campaign):
        notes.problems.append(Problem("bad-value", message, at))
    notes.flags = {}
    resolve(joined, notes)
    if notes.problems:
        raise LevelError(sorted(notes.problems, key=lambda one: one.place or (0, 0)), file)
    return joined


def _stages(
    said: dict[str, _StageSaid], notes: Notes, read_level: LevelReader
) -> Iterator[tuple[str, Stage]]:
    known: dict[str, Item] = {}
    first: dict[str, str] = {}
    players: tuple[str, Level] | None = None
    brought: list[tuple[str, Node]] = []
    for one in said.values():
        try:
            level = read_level(one.file)
        except LevelError as error:
            for problem in error.problems:
                message = f"level {one.name!r}: {error.where(problem)}{problem.message}"
                notes.add(problem.code, message, one.file_at, problem.near)
            continue
        players = players or (one.file, level)
        unlike = _other_players(*players, one.file, level)
        if unlike:
            notes.add("bad-value", unlike, one.file_at)
        for item in level.items.values():
            other = known.setdefault(item.name, item)
            field = _differs(item, other)
            if field is not None:
                message = (
                    f"{first[item.name]} and {one.file} do not agree about {item.name!r}: "
                    f"its `{field}` is {_said(other, field)} and {_said(item, field)}"
                )
                notes.add("bad-value", message, one.file_at)
            first.setdefault(item.name, one.file)
        if one.brings and one.brings_at is not None:
            brought += [(item, one.brings_at) for item in sorted(one.brings)]
        yield one.name, Stage(one.name, level, one.brings, one.keeps, place_of(one.key))
    for name, node in brought:
        if name not in known and not notes.problems:
            message = f"{name!r} is no item of any level"
            notes.add("unknown-name", message, node, nearest(name, known))


def _other_players(file: str, level: Level, other_file: str, other: Level) -> str | None:
    """Return what is wrong if two levels of a campaign are not for the same players; ``None`` if nothing."""
    who = [list(one.players) if one.several else [] for one in (level, other)]
    files = f"{file} and {other_file} are not for the same players"
    if sorted(who[0]) != sorted(who[1]):
        said = [in_list(one) if one else "one player" for one in who]
        return f"{files}: {said[0]}, and {said[1]}"
    if who[0] and level.inventory.shared != other.inventory.shared:
        return f"{file} and {other_file} do not agree whether the players share one inventory"
    return None


def _differs(item: Item, other: Item) -> str | None:
    """The field about which two levels disagree; how an item looks may differ."""
    looks = ("color", "label", "note", "place")
    return next(
        (
            one.name.replace("_", "-")
            for one in fields(Item)
            if one.name not in looks and getattr(item, one.name) != getattr(other, one.name)
        ),
        None,
    )


def _said(item: Item, field: str) -> str:
    value = getattr(item, field.replace("-", "_"))
    return (
        "not said"
        if value is None
        else str(value).lower()
        if isinstance(value, bool)
        else str(value)
    )


def _campaign(
    said: dict[str, Any], stages: dict[str, Stage], notes: Notes, file: str | None
) -> CampaignParts:
    names = list(stages)
    shares = frozenset(said.get("shares", ()))
    flags = {flag for stage in stages.values() for flag in stage.level.all_flags()}
    ways: list[Onward] = []
    if "ways" not in said:
        ways = [Onward(a, b, place=stages[b].place) for a, b in pairwise(names)]
    for a, b, fields_said, header in said.get("ways", ()):
        for name in (a, b):
            if name not in stages:
                message = f"{name!r} is not a level of the campaign"
                notes.add("unknown-name", message, header, nearest(name, names))
        if a in stages and b in stages:
            ways.append(_way(a, b, fields_said, header, stages, shares, flags, notes))
    goal = names[-1]
    if "goal" in said:
        goal = said["goal"].value
        if goal not in stages:
            message = f"{goal!r} is not a level of the campaign"
            notes.add("unknown-name", message, said["goal"], nearest(goal, names))
    for flag in sorted(shares - flags):
        notes.problems.append(
            Problem(
                "unknown-name",
                f"{flag!r} is shared, but it is no flag of any level",
                None,
                flag,
                nearest(flag, flags),
            )
        )
    return CampaignParts(
        said["campaign"],
        stages,
        ways,
        goal,
        shares,
        said.get("expect", Expect()),
        said.get("accept", ()),
        file=file,
    )


def _way(
    a: str,
    b: str,
    said: dict[str, Any],
    header: Node,
    stages: dict[str, Stage],
    shares: frozenset[str],
    flags: set[str],
    notes: Notes,
) -> Onward:
    nodes = said.pop("nodes", {})
    if "when" in said:
        notes.conditions = [one for one in notes.conditions if one[1] is not nodes["when"]]
        level = stages[a].level
        said["when"] = _room_or(said["when"], level)
        check_condition(level, level.all_flags(), said["when"], nodes["when"], notes)
    known = shares | stages[b].level.all_flags()
    said["sets"] = said.pop("turns_on", ())
    for flag in said["sets"]:
        if flag not in known:
            message = f"{flag!r} is no flag of {b}, and not under `shares`"
            notes.add("unknown-name", message, nodes["sets"], nearest(flag, known))
    return Onward(a, b, place=place_of(header), **said)


def _room_or(condition: Condition, level: Level) -> Condition:
    """A condition in which a bare name of a room is short for being there, as in a goal."""
    if not isinstance(condition, Has) or condition.count > 1 or condition.name not in level.rooms:
        return condition
    carried = condition.name in level.items or condition.name in level.all_flags()
    return condition if carried else At(condition.name)


def joined_problems(campaign: CampaignParts) -> Iterator[tuple[str, Any]]:
    """Report values that could grow without end in a cycle of levels, and flags of pickups that belong to
    no level.
    """
    for stage in campaign.stages.values():
        level = stage.level
        for item in level.items.values():
            turned = {*item.on_pickup.sets, *item.on_pickup.clears, *item.on_pickup.flips}
            own = sorted(turned - campaign.shares)
            if own:
                message = (
                    f"picking up {item.name!r} turns {in_list(own)}: in a campaign, such a flag has "
                    "to be under `shares`"
                )
                yield message, stage.place
            if item.max is not None or stage.keeps or not _gives(level, item.name):
                continue
            if stage.name in campaign.again(item.name):
                message = (
                    f"{item.name!r} could grow without end: {stage.name!r} can be entered again and "
                    f"again, and has {item.name} each time; give it a `max`, or let `brings` leave it out"
                )
                yield message, stage.place


def _gives(level: Level, item: str) -> bool:
    return bool(level.placed(item)) or any(
        item in effects.gives for effects, _, _, _ in all_effects(level)
    )

"""List the changes in a level, by name."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from itertools import zip_longest
from pathlib import Path
from typing import Any

from ..language.fields.plain import campaign_dict, level_dict
from ..level import Level
from ..level.campaign import CampaignParts
from ..level.joined import Joined
from ..level.names import in_list
from .renames import Renamed, renamed, renames

#: The fields of a level besides its things, with the words for them.
_WHOLE = {
    "name": "the level's name", "start": "the start", "goal": "the goal", "inventory": "the inventory",
    "rules": "the rules", "expect": "what is expected", "accept": "what is accepted",
}  # fmt: skip
#: The parts of a level with a name each.
_PARTS = {"items": "item", "locks": "lock", "flags": "flag", "areas": "area", "events": "event", "players": "player",
          "scatter": "group of `scatter`"}  # fmt: skip
_INSIDE = {"chests": "chest", "switches": "switch", "acts": "act"}


def level_changes(old: Level, new: Level) -> tuple[list[str], list[Renamed]]:
    """The changes in a level, one sentence each, and the renamed things.

    Returns:
        The sentences, renamings first, and the renamings.
    """
    if isinstance(old, Joined) and isinstance(new, Joined):
        return _campaign_changes(old.campaign, new.campaign)
    if isinstance(old, Joined) or isinstance(new, Joined):
        kinds = ["a campaign" if isinstance(one, Joined) else "a level" for one in (old, new)]
        return [f"it was {kinds[0]}, and is {kinds[1]} now"], []
    before, after = level_dict(old), level_dict(new)
    if all(one.file and one.name == Path(one.file).stem for one in (old, new)):
        del before["name"], after["name"]  # neither says one: they are called after their files
    names = renames(old, new, before, after)
    before = renamed(before, names)
    said = [f"{_a(one.kind)} {one.old} is called {one.new} now" for one in names]
    said += _of_whole(before, after, _WHOLE)
    for part, word in _PARTS.items():
        said += _of_named(word, before.get(part) or {}, after.get(part) or {})
    said += _of_rooms(before.get("rooms") or {}, after.get("rooms") or {})
    said += _moved(_lying(old, names), _lying(new, []))
    said += _of_things(before.get("rooms") or {}, after.get("rooms") or {})
    said += _of_passages(before.get("passages") or [], after.get("passages") or [])
    said += _of_maps(old, new)
    said += _of_named("symbol", before.get("legend") or {}, after.get("legend") or {})
    return said, names


def _campaign_changes(old: CampaignParts, new: CampaignParts) -> tuple[list[str], list[Renamed]]:
    """Return the changes in a campaign's own file, then in each of its levels."""
    before, after = campaign_dict(old), campaign_dict(new)
    said = list(_of_named("level", before["levels"], after["levels"]))
    both = old.stages.keys() & new.stages.keys()
    common = [[name for name in one if name in both] for one in (old.stages, new.stages)]
    if common[0] != common[1]:
        said.append(f"the order of the levels: {short(common[0])} → {short(common[1])}")
    said += _of_passages(before.get("ways", []), after.get("ways", []), "way")
    words = {"campaign": "the campaign's name", "goal": "the level that ends the campaign",
             "shares": "the flags shared by all levels", "expect": "what is expected",
             "accept": "what is accepted"}  # fmt: skip
    said += _of_whole(before, after, words)
    names: list[Renamed] = []
    for name in common[1]:
        changes, within = level_changes(old.stages[name].level, new.stages[name].level)
        said += [f"{name}: {one}" for one in changes]
        names += [_in_campaign(one, name, new) for one in within]
    return said, names


def _in_campaign(one: Renamed, stage: str, campaign: CampaignParts) -> Renamed:
    """Return a renaming in one level with the names of the campaign; items and shared flags keep theirs."""
    if one.kind == "item" or (one.kind == "flag" and one.new in campaign.shares):
        return one
    return Renamed(one.kind, f"{stage}/{one.old}", f"{stage}/{one.new}")


def _a(kind: str) -> str:
    return {"thing": "what was", "item": "the item", "room": "the room"}.get(kind, f"the {kind}")


def _of_whole(
    before: Mapping[str, Any], after: Mapping[str, Any], names: Mapping[str, str]
) -> Iterator[str]:
    for field, words in names.items():
        old, new = before.get(field), after.get(field)
        if isinstance(old or {}, Mapping) and isinstance(new or {}, Mapping):
            yield from (f"{words}: {one}" for one in _fields(old or {}, new or {}))
        elif old != new:
            yield f"{words}: {short(old)} → {short(new)}"


def _of_named(word: str, before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[str]:
    for name in before.keys() - after.keys():
        yield f"{word} {name} is gone"
    for name in after:
        if name not in before:
            yield f"{word} {name} is new"
        elif before[name] != after[name]:
            yield f"{word} {name}: {'; '.join(_fields(before[name], after[name]))}"


def _of_rooms(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[str]:
    left_out = {*_INSIDE, "items"}
    own = [
        {room: {k: v for k, v in (said or {}).items() if k not in left_out} for room, said in one.items()}
        for one in (before, after)
    ]  # fmt: skip
    yield from _of_named("room", *own)
    for room in before.keys() & after.keys():
        asked = [_conditions_of_lying((one[room] or {}).get("items")) for one in (before, after)]
        for item in asked[0].keys() & asked[1].keys():
            if asked[0][item] != asked[1][item]:
                yield f"{item} in {room}: {'; '.join(_fields(asked[0][item], asked[1][item]))}"


def _conditions_of_lying(said: Any) -> dict[str, dict[str, Any]]:
    """The fields of things that lie in a room, besides the count."""
    if not isinstance(said, Mapping):
        return {item: {} for item in ([said] if isinstance(said, str) else said or [])}
    return {
        item: {k: v for k, v in one.items() if k != "count"} if isinstance(one, Mapping) else {}
        for item, one in said.items()
    }


def _things(rooms: Mapping[str, Any]) -> dict[str, tuple[str, str, Any]]:
    """Chests, switches and acts, each with its kind, its room and its fields."""
    return {
        name: (word, room, fields or {})
        for room, said in rooms.items()
        for kind, word in _INSIDE.items()
        for name, fields in ((said or {}).get(kind) or {}).items()
    }


def _of_things(before: Mapping[str, Any], after: Mapping[str, Any]) -> Iterator[str]:
    old, new = _things(before), _things(after)
    for name, (word, room, _) in old.items():
        if name not in new:
            yield f"{word} {name} in {room} is gone"
    for name, (word, room, fields) in new.items():
        if name not in old:
            yield f"{word} {name} in {room} is new"
            continue
        was, there, had = old[name]
        if was != word:
            yield f"{name} is {_an(word)} now, and was {_an(was)}"
        if there != room:
            yield f"{word} {name} moved from {there} to {room}"
        differing = [one for one in _fields(had, fields) if not one.startswith("holds:")]
        if differing:
            yield f"{word} {name}: {'; '.join(differing)}"


def _an(word: str) -> str:
    return f"an {word}" if word[0] in "aeiou" else f"a {word}"


def _lying(level: Level, names: list[Renamed]) -> dict[str, Counter[str]]:
    """Where units of each item lie: in rooms, in chests, and carried at the start."""
    found: dict[str, Counter[str]] = {}

    def put(item: str, where: str, count: int) -> None:
        found.setdefault(renamed(item, names), Counter())[renamed(where, names)] += count

    for room in level.rooms.values():
        for item, placement in room.items.items():
            put(item, room.name, placement.count)
        for chest in room.chests.values():
            for item, count in chest.holds.items():
                put(item, chest.name, count)
    return found


def _moved(old: Mapping[str, Counter[str]], new: Mapping[str, Counter[str]]) -> Iterator[str]:
    for item in {**old, **new}:
        before, after = old.get(item, Counter()), new.get(item, Counter())
        gone, come = (before - after).elements(), (after - before).elements()
        for source, target in zip_longest(gone, come):
            if source and target:
                yield f"{item} moved from {source} to {target}"
            elif target:
                yield f"one more {item} in {target}"
            else:
                yield f"one {item} fewer in {source}"


def _of_passages(before: list[Any], after: list[Any], word: str = "passage") -> Iterator[str]:
    old, new = _by_name(before), _by_name(after)
    for name, (text, _) in old.items():
        if name not in new:
            yield f"{word} {_called(name, text)} is gone"
    for name, (text, fields) in new.items():
        if name not in old:
            yield f"{word} {_called(name, text)} is new"
            continue
        was, had = old[name]
        differing = [f"{was} → {text}"] if was != text else []
        differing += _fields(had, fields)
        if differing:
            yield f"{name}: {'; '.join(differing)}"


def _by_name(passages: list[Any]) -> dict[str, tuple[str, dict[str, Any]]]:
    found: dict[str, tuple[str, dict[str, Any]]] = {}
    for one in passages:
        text, fields = next(iter(one.items())) if isinstance(one, Mapping) else (one, {})
        name = given = str(fields.get("name", text))
        number = 1
        while name in found:
            number += 1
            name = f"{given} #{number}"
        found[name] = text, {key: value for key, value in fields.items() if key != "name"}
    return found


def _called(name: str, text: str) -> str:
    return name if name.startswith(text) else f"{name} ({text})"


def _of_maps(old: Level, new: Level) -> Iterator[str]:
    for name in old.maps.keys() - new.maps.keys():
        yield f"map {name} is gone"
    for name, floor in new.maps.items():
        if name not in old.maps:
            yield f"map {name} is new"
            continue
        was = old.maps[name]
        if was.csv != floor.csv:
            yield f"map {name}: csv: {short(was.csv)} → {short(floor.csv)}"
        if was.side != floor.side:
            sides = [
                one.side and f"side, jump {one.side.up} up and {one.side.across} across"
                for one in (was, floor)
            ]
            yield f"map {name}: seen from: {sides[0] or 'above'} → {sides[1] or 'above'}"
        size = [f"{one.width} x {len(one.rows)}" for one in (was, floor)]
        if size[0] != size[1]:
            yield f"map {name}: {size[0]} cells → {size[1]}"
        cells = [
            f"{column},{row}"
            for row in range(1, max(len(was.rows), len(floor.rows)) + 1)
            for column in range(1, max(was.width, floor.width) + 1)
            if was.symbol(column, row) != floor.symbol(column, row)
        ]
        if cells:
            few = in_list(cells) if len(cells) <= 6 else f"{', '.join(cells[:5])} and others"
            yield f"map {name}: {len(cells)} cell{'s' * (len(cells) > 1)} redrawn ({few})"


def _fields(old: Any, new: Any) -> list[str]:
    """Where two things differ, field by field."""
    if not isinstance(old, Mapping) or not isinstance(new, Mapping):
        return [] if old == new else [f"{short(old)} → {short(new)}"]
    return [
        f"{field}: {short(old.get(field))} → {short(new.get(field))}"
        for field in {**old, **new}
        if old.get(field) != new.get(field)
    ]


def short(value: Any) -> str:
    """A value in a few words."""
    match value:
        case None:
            return "nothing"
        case bool():
            return "yes" if value else "no"
        case Mapping():
            return ", ".join(
                f"{key} {short(one)}" if one else str(key) for key, one in value.items()
            )
        case list():
            return in_list(map(short, value)) if value else "nothing"
    return str(value)

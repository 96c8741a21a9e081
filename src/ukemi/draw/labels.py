"""The labels of rooms and passages."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from functools import lru_cache
from itertools import chain, count
from textwrap import wrap

from ..level import (
    ALWAYS,
    Act,
    At,
    Chest,
    Condition,
    Effects,
    Event,
    Has,
    Level,
    Lock,
    Passage,
    Room,
)
from ..level.conditions import EveryoneAt, PlayerAt, SomeoneAt, atoms, required_parts, signed_atoms
from ..level.joined import Joined
from ..level.remarks import remarks
from ..values import dataclass
from .marks import ACT, CHEST, GATE, GOAL, START
from .style import FONT, SMALL, item_colors, lock_color, text_width, theme

#: The width a mark takes before a line, in points.
MARK_WIDTH = 18.0
#: How much wider bold text is.
_BOLD = 1.13


@dataclass(frozen=True, slots=True)
class Written:
    """A line of text, with a mark before it, if it has one: its colour, shape and letters.

    Attributes:
        thing: What it is about, if it is a thing in a room: ``lying``, ``opens`` or ``does``, and the name.
    """

    text: str
    mark: str | None = None
    shape: str = "item"
    letters: str = ""
    color: str | None = None
    size: float = SMALL
    bold: bool = False
    thing: tuple[str, str] | None = None


def room_lines(level: Level, room: Room) -> list[Written]:
    """The lines of a room's box: its name, its part in the level, and what is in it."""
    colors, letters = item_colors(level), letters_of(level)
    lines = [Written(room.label or room.name, size=FONT, bold=True)]
    if room.gate != ALWAYS:
        lines.append(Written(f"gate: {room.gate}", GATE, "gate"))
    for player in level.players:
        start, carries = level.begins(player)
        if start == room.name:
            items = [_times(item, count) for item, count in carries.items()]
            words = f"START {player}" + (f", carrying {', '.join(items)}" if items else "")
            lines.append(Written(words, START, "start"))
    if room.name in _starts(level):
        words = f"START of {room.name.partition('/')[0]}"
        lines.append(Written(words, START, "start"))
    elif room.name == level.start and not level.players:
        carried = [_times(item, count) for item, count in level.inventory.start.items()]
        words = "START" + (f", carrying {', '.join(carried)}" if carried else "")
        lines.append(Written(words, START, "start"))
    goal = goal_text(level, room.name)
    if goal:
        lines.append(Written(goal, GOAL, "goal"))
    for placement in room.items.values():
        kind = level.items[placement.item].kind
        extra = "" if kind == "key" else f" ({kind})"
        extra += f", needs {placement.needs}" if placement.needs != ALWAYS else ""
        extra += hidden(placement.seen)
        named = placement.label or level.items[placement.item].label or placement.item
        text = _times(named, placement.count) + extra
        shape = kind if kind in ("reward", "supply") else "item"
        text += " as a pile" if placement.pile and placement.count > 1 else ""
        mark, thing = letters[placement.item], ("lying", f"{room.name}/{placement.item}")
        lines.append(Written(text, colors[placement.item], shape, mark, thing=thing))
    for chest in room.chests.values():
        text = _chest_text(level, chest)
        lines.append(Written(text, CHEST, "chest", CHEST_LETTER, thing=("opens", chest.name)))
    for act in room.all_acts():
        sign = "!" if act.switch else "?"
        lines.append(Written(act_text(act), ACT, "act", sign, thing=("does", act.name)))
    return lines


def _starts(level: Level) -> set[str]:
    """The rooms in which the levels of a campaign start, but the first."""
    if not isinstance(level, Joined):
        return set()
    stages = level.campaign.stages
    return {f"{name}/{one.level.start}" for name, one in stages.items()} - {level.start}


def hidden(seen: Condition) -> str:
    """Return, in words, until when a thing is hidden; empty for a thing that is seen from the start."""
    return "" if seen == ALWAYS else f", hidden until {seen}"


def note_lines(level: Level) -> list[str]:
    """The notes of a level, each after the name of its thing, in lines that fit a picture."""
    found: list[str] = []
    for one in remarks(level):
        if one.note:
            found += wrap(f"note on {one.name}: {' '.join(one.note.split())}", 96)
    return found


def _chest_text(level: Level, chest: Chest) -> str:
    holds = ", ".join(_times(item, count) for item, count in chest.holds.items())
    lock = level.lock_of(chest)
    needs = f", needs {lock.needs}" if lock and lock.needs != ALWAYS else ""
    steps = chest.steps or (lock.steps if lock else 1)
    needs += f", {steps} steps" if steps != 1 else ""
    needs += hidden(chest.seen)
    return f"chest {chest.label or chest.name}{needs}" + (f": {holds}" if holds else "")


def _times(item: str, count: int) -> str:
    return item if count == 1 else f"{count} {item}"


def passage_lines(level: Level, passage: Passage) -> list[Written]:
    """The lines of a passage's label; none for a plain passage without a name.

    A door whose mark says all about its lock has one line: the mark, and the door's name.
    """
    lines: list[Written] = []
    lock = level.lock_of(passage)
    if lock is not None and _mark_says_all(level, passage, lock):
        name = passage.label or (passage.name if passage.named else "")
        mark = lock_color(level, lock, item_colors(level))
        return [Written(name, mark, "door", lock_letters(level, lock), size=SMALL - 0.5)]
    if passage.named or passage.label:
        lines.append(Written(passage.label or passage.name, bold=True))
    if lock is not None:
        mark = lock_color(level, lock, item_colors(level))
        lines.append(Written(_lock_text(lock), mark, "door", lock_letters(level, lock)))
    if passage.gate != ALWAYS:
        lines.append(Written(f"gate: {passage.gate}", GATE, "gate"))
    if passage.seen != ALWAYS:
        lines.append(Written(hidden(passage.seen).removeprefix(", "), color=theme().faint))
    if passage.once:
        lines.append(Written("once", color=theme().faint))
    if passage.steps != 1:
        lines.append(Written(f"{passage.steps} steps", color=theme().faint))
    if passage.effects:
        lines.append(Written(effect_words(passage.effects), color=theme().faint))
    if len(lines) == 1 and lines[0].bold:
        return [Written(lines[0].text, size=SMALL - 0.5)]
    return lines


def _mark_says_all(level: Level, passage: Passage, lock: Lock) -> bool:
    """Whether a door asks for one item, and nothing else is to be said about it.

    The item must lie in some room, so that the picture shows the letters of its mark beside its name.
    """
    plain_way = passage.gate == passage.seen == ALWAYS and passage.steps == 1
    plain_way = plain_way and not (passage.once or passage.effects)
    plain_lock = lock.steps == 1 and not (lock.from_ or lock.relocks or lock.color)
    if not (plain_way and plain_lock and isinstance(lock.needs, Has) and lock.needs.count == 1):
        return False
    item = lock.needs.name
    return any(one.item == item for room in level.rooms.values() for one in room.items.values())


def on_its_line(lines: Sequence[Written]) -> bool:
    """Whether a label is drawn on the line of its passage, without a frame: it is one mark or one name."""
    return len(lines) == 1


def is_mark(lines: Sequence[Written]) -> bool:
    """Whether a label on its line begins with a mark."""
    return on_its_line(lines) and bool(lines[0].mark)


def _lock_text(lock: Lock) -> str:
    text = "locked" if lock.needs == ALWAYS else f"needs {lock.needs}"
    if lock.steps != 1:
        text += f", {lock.steps} steps"
    if lock.from_:
        text += f", from {lock.from_}"
    return text + (", relocks" if lock.relocks else "")


def size_of(lines: list[Written], scale: float = 1.0) -> tuple[float, float]:
    """The width and height a block of lines takes, in points; its print is larger by some factor."""
    widths = [
        scale * text_width(line.text, line.size) * (_BOLD if line.bold else 1)
        + (MARK_WIDTH if line.mark else 0)
        for line in lines
    ]
    pad = 4 if on_its_line(lines) else 10
    return max(widths, default=0.0) + 16, sum(line.size * 1.45 for line in lines) + pad


def goal_text(level: Level, room: str) -> str:
    """The label of a room that the goal names, with what else the goal asks for; empty for other rooms.

    Example:
        >>> level = Level()
        >>> level.room("loft")
        >>> level.item("lens")
        >>> level.set_goal("at loft and lens")
        >>> goal_text(level, "loft")
        'GOAL, with lens'
    """
    if isinstance(level, Joined):
        stage = level.stage_of(room)
        text = _goal_text(level.goals[stage], room)
        last = stage == level.campaign.goal
        return text if last else text.replace("GOAL", f"GOAL of {stage}", 1)
    return "" if level.goal is None else _goal_text(level.goal, room)


def _goal_text(goal: Condition, room: str) -> str:
    here = At | EveryoneAt | SomeoneAt | PlayerAt
    parts = [*required_parts(goal)]
    own = [one for one in parts if isinstance(one, here) and one.room == room]
    if own:
        who = {EveryoneAt: " of everyone", SomeoneAt: " of anyone"}.get(type(own[0]), "")
        who = f" of {own[0].player}" if isinstance(own[0], PlayerAt) else who
        others = [str(one) if one.binds > 1 else f"({one})" for one in parts if one not in own]
        return f"GOAL{who}" + (f", with {' and '.join(others)}" if others else "")
    named = (atom for atom, wanted in signed_atoms(goal) if wanted)
    if any(isinstance(atom, here) and atom.room == room for atom in named):
        return f"GOAL: {goal}"
    return ""


def label_sizes(
    level: Level, labels: Mapping[str, list[Written]], scale: float = 1.0
) -> dict[frozenset[str], tuple[float, float]]:
    """For each two rooms, the width of the widest label between them, and the height of all labels together.

    Args:
        labels: The label of each passage, by its name.
        scale: How much larger than usual their print is.
    """
    sizes: dict[frozenset[str], tuple[float, float]] = {}
    for passage in level.passages:
        if labels[passage.name] and passage.a != passage.b:
            pair = frozenset((passage.a, passage.b))
            width, height = size_of(labels[passage.name], scale)
            wide, high = sizes.get(pair, (0.0, 0.0))
            sizes[pair] = max(wide, width), high + height
    return sizes


def initials(name: str) -> str:
    """The initials of a name, numbers whole: ``BK`` for brass-key, ``K13`` for key-13."""
    parts = re.findall(r"\d+|[^\W\d_]+", name)
    return "".join(part if part.isdigit() else part[0].upper() for part in parts)[:3]


def letters_of(level: Level) -> dict[str, str]:
    """The labels on the marks of items and flags: initials, each used once.

    Example:
        >>> level = Level()
        >>> level.item("iron-key")
        >>> level.item("ice-key")
        >>> level.item("ice-knife")
        >>> letters_of(level)
        {'iron-key': 'IK', 'ice-key': 'ICK', 'ice-knife': 'IK2'}
    """
    chests = any(room.chests for room in level.rooms.values())
    return _letters((*level.items, *sorted(level.all_flags())), CHEST_LETTER if chests else "")


#: The label on the mark of a chest, which no item has then.
CHEST_LETTER = "C"


@lru_cache(maxsize=16)
def _letters(names: tuple[str, ...], other: str) -> dict[str, str]:
    found: dict[str, str] = {}
    taken = {other}
    for name in names:
        first, *rest = re.findall(r"\d+|[^\W\d_]+", name) or [name]
        tries = [initials(name), (first[:2] + initials("-".join(rest))).upper()[:3]]
        numbered = (f"{initials(name)[:2]}{number}" for number in count(2))
        found[name] = next(one for one in chain(tries, numbered) if one not in taken)
        taken.add(found[name])
    return found


def lock_letters(level: Level, lock: Lock) -> str:
    """Return the label on the mark of a lock: the label of the first item or flag that it needs."""
    return letters_of(level).get(key_of(level, lock.needs), "")


def act_text(act: Act) -> str:
    """Return the needs, the effects and the cost of an act or switch."""
    text = f"{'switch' if act.switch else 'act'} {act.label or act.name}"
    text += f", needs {act.needs}" if act.needs != ALWAYS else ""
    text += f", {act.steps} steps" if act.steps != 1 else ""
    text += hidden(act.seen)
    does = effect_words(act.effects)
    return f"{text}: {does}" if does else text


def event_text(event: Event) -> str:
    """When an event happens, and what it does."""
    return f"event {event.name}, when {event.when}: {effect_words(event.effects) or 'no more'}"


def effect_words(effects: Effects) -> str:
    """Return the changes of effects, in a few words.

    Example:
        >>> effect_words(Effects(spends={"grain": 2}, gives={"iron-key": 1}, flips=("low-water",)))
        'spends 2 grain, gives iron-key, flips low-water'
    """
    words = []
    for verb in ("spends", "loses", "gives"):
        some = [_times(item, number) for item, number in getattr(effects, verb).items()]
        words += [f"{verb} {', '.join(some)}"] if some else []
    for verb in ("sets", "clears", "flips", "opens"):
        names = getattr(effects, verb)
        words += [f"{verb} {', '.join(names)}"] if names else []
    return ", ".join(words)


def key_of(level: Level, condition: Condition) -> str:
    """Return the first item or flag that a lock needs."""
    names = [atom.name for atom in atoms(condition) if isinstance(atom, Has)]
    return next((name for name in names if name in level.items), next(iter(names), ""))

"""How a play stands, as it is shown after each turn."""

from __future__ import annotations

from ..rules import END, FINISHED
from .play import Play
from .said import Said


def standing(play: Play) -> list[Said]:
    """Where the player is, what is here, what can be done, what waits, and what is carried.

    Args:
        play: The play.

    Returns:
        The lines.
    """
    turns, steps = len(play.turns), play.steps
    counted = f"{turns} move{'' if turns == 1 else 's'}, {steps} step{'' if steps == 1 else 's'}"
    if play.over:
        how = "Finished" if play.position[END] == FINISHED else "Dead"
        style = "good" if play.position[END] == FINISHED else "bad"
        return [Said("", f"{how} in {play.room} after {counted}.", style), *_carried(play)]
    where = _named(play, play.room)
    if play.player is not None:
        where = f"{play.player}: {where}"
        others = [one for one in play.level.players if one != play.player]
        where += "".join(f"; {one}: {_named(play, play.room_of(one))}" for one in others)
    found = [Said("at", f"{where}   ({counted})", "title")]
    here = _here(play)
    if here:
        found.append(Said("here", ", ".join(here)))
    for number, option in enumerate(play.moves(), 1):
        words = option.asked + option.more
        found.append(Said("can do" if number == 1 else " ", f"{number:>2}  {words}"))
    if not play.moves():
        found.append(Said("can do", "nothing"))
    for number, (name, why) in enumerate(play.waiting.here(play.position, play.player).items()):
        found.append(Said("waiting" if number == 0 else " ", f"{name}: {why}"))
    return [*found, *_carried(play)]


def _named(play: Play, room: str) -> str:
    label = play.level.rooms[room].label
    return f"{room} ({label})" if label else room


def _here(play: Play) -> list[str]:
    """What lies and stands in the room, and how it is."""
    values = dict(zip(play.rules.variables, play.position, strict=True))
    here = []
    for variable, count in values.items():
        if variable[0] in ("lying", "put-down") and variable[1] == play.room and count:
            more = f" {count}" if count > 1 else ""
            down = " (put down)" if variable[0] == "put-down" else ""
            here.append(variable[2] + more + down)
    for room in play.level.rooms.values():
        if room.name != play.room and play.room not in (room.used_from or ()):
            continue
        for chest in room.chests:
            here.append(f"{chest} ({'open' if values['opened', chest] else 'shut'})")
        for act in room.all_acts():
            here.append(f"{act.name} (done)" if values["done", act.name] else act.name)
    doors = {one.thing: None for one, _ in play.level.doors() if play.room in one.ends}
    here += [f"{door} ({'open' if values['opened', door] else 'shut'})" for door in doors]
    return here


def _carried(play: Play) -> list[Said]:
    slots = play.level.inventory.slots
    gained = {one.rpartition(" ")[0]: one.rpartition(" ")[2] for one in play.last_changes}
    carried = [
        f"{item} {count}" + (f" ({gained[item]})" if item in gained else "")
        for item, count in play.inventory.items()
    ]
    used = sum(play.level.items[item].slots * count for item, count in play.inventory.items())
    full = f"   ({used} of {slots} slots)" if slots is not None else ""
    found = [Said("carried", (", ".join(carried) or "nothing") + full)]
    for other in play.level.players if not play.level.inventory.shared else ():
        if other != play.player:
            theirs = ", ".join(f"{item} {n}" for item, n in play.inventory_of(other).items())
            found.append(Said(" ", f"{other}: {theirs or 'nothing'}"))
    if play.flags:
        found.append(Said("flags on", ", ".join(play.flags)))
    if play.opened:
        found.append(Said("open", ", ".join(play.opened)))
    rest = [one for one in play.last_changes if one.rpartition(" ")[0] not in play.inventory]
    if rest:
        found.append(Said("changed", ", ".join(rest)))
    return found

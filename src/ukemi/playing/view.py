"""How a play stands, as it is shown after each turn."""

from __future__ import annotations

from ..level import Passage
from ..level.names import in_list
from ..level.remarks import labelled, remarks
from ..level.room import Act, Chest, Placement
from ..rules import END, FINISHED
from .play import Play
from .said import Said


def standing(play: Play) -> list[Said]:
    """The view of the player: the room, the things here, the options, the things that wait, the
    inventory.
    """
    turns, steps = len(play.turns), play.steps
    counted = f"{turns} move{'' if turns == 1 else 's'}, {steps} step{'' if steps == 1 else 's'}"
    if play.over:
        how = "Finished" if play.position[END] == FINISHED else "Dead"
        style = "good" if play.position[END] == FINISHED else "bad"
        return [Said("", f"{how} in {play.room} after {counted}.", style), *carried(play)]
    where = _named(play, play.room)
    if play.player is not None:
        where = f"{play.player}: {where}"
        others = [one for one in play.level.players if one != play.player]
        where += "".join(f"; {one}: {_named(play, play.room_of(one))}" for one in others)
    found = [Said("at", f"{where}   ({counted})", "title")]
    here = _here(play)
    if here:
        found.append(Said("here", ", ".join(here)))
    near = {play.room, *(one.partition(" (")[0] for one in here)}
    notes = [
        f"{one.name}: {one.note}" for one in remarks(play.level) if one.note and one.name in near
    ]
    found += [Said("notes" if n == 0 else " ", note) for n, note in enumerate(notes)]
    for number, option in enumerate(play.moves(), 1):
        words = option.asked + option.more
        found.append(Said("can do" if number == 1 else " ", f"{number:>2}  {words}"))
    if not play.moves():
        found.append(Said("can do", "nothing"))
    for number, (name, why) in enumerate(play.waiting.here(play.position, play.player).items()):
        found.append(Said("waiting" if number == 0 else " ", f"{name}: {why}"))
    return [*found, *carried(play)]


def tries(play: Play) -> list[str]:
    """The words for everything that the player sees and can try, possible or not."""
    found = [one.asked.partition(" with ")[0] for one in play.moves()]
    found += [one.asked for one in play.senses.around(play.position, play.room)]
    for item, placement in play.level.rooms[play.room].items.items():
        lying = play.position[play.rules.index["lying", play.room, item]]
        if lying and play.senses.sees(play.position, placement):
            found.append(f"take {item}")
    plain = [one for one in dict.fromkeys(found) if not one.startswith("go ")]
    return [*plain, *(one for one in dict.fromkeys(found) if one.startswith("go "))]


def seen_by_player(play: Play) -> list[Said]:
    """How a play stands, with only the things that the player sees, and without conditions."""
    if play.over:
        return [standing(play)[0], carried_as_seen(play)]
    who = f"{play.player}: " if play.player is not None else ""
    found = [Said("at", who + _named(play, play.room), "title")]
    here = _here(play, hidden=False)
    if here:
        found.append(Said("here", ", ".join(here)))
    walks = {one.asked: one for one in play.moves() if one.what["do"] == "walk"}
    for number, asked in enumerate(tries(play), 1):
        things = play.choices.things_ahead(walks[asked]) if asked in walks else []
        words = asked + (f": {in_list(things)}" if things else "")
        found.append(Said("can try" if number == 1 else " ", f"{number:>2}  {words}"))
    return [*found, carried_as_seen(play)]


def carried_as_seen(play: Play) -> Said:
    """The line that says what is carried, without flags."""
    units = [f"{labelled(play.level, one)} {count}" for one, count in play.inventory.items()]
    return Said("carried", ", ".join(units) or "nothing")


def _named(play: Play, room: str) -> str:
    return labelled(play.level, room)


def _here(play: Play, hidden: bool = True) -> list[str]:
    """Return the things in the room, and their state; without hidden things if they are left out."""

    def shown(part: Chest | Act | Passage | Placement) -> bool:
        return hidden or play.senses.sees(play.position, part)

    values = dict(zip(play.rules.variables, play.position, strict=True))
    here = []
    for variable, count in values.items():
        if variable[0] in ("lying", "put-down") and variable[1] == play.room and count:
            if variable[0] == "lying" and not shown(play.level.rooms[play.room].items[variable[2]]):
                continue
            more = f" {count}" if count > 1 else ""
            down = " (put down)" if variable[0] == "put-down" else ""
            here.append(labelled(play.level, variable[2]) + more + down)
    for room in play.level.rooms.values():
        if room.name != play.room and play.room not in (room.used_from or ()):
            continue
        for chest in (name for name, one in room.chests.items() if shown(one)):
            here.append(
                f"{labelled(play.level, chest)} ({'open' if values['opened', chest] else 'shut'})"
            )
        for act in filter(shown, room.all_acts()):
            name = labelled(play.level, act.name)
            here.append(f"{name} (done)" if values["done", act.name] else name)
    doors = {
        one.thing: None for one, _ in play.level.doors() if play.room in one.ends and shown(one)
    }
    here += [
        f"{labelled(play.level, door)} ({'open' if values['opened', door] else 'shut'})"
        for door in doors
    ]
    return here


def carried(play: Play) -> list[Said]:
    """The lines that say what is carried, which flags are on and what is open."""
    slots = play.level.inventory.slots
    gained = {one.rpartition(" ")[0]: one.rpartition(" ")[2] for one in play.last_changes}
    units = [
        f"{item} {count}" + (f" ({gained[item]})" if item in gained else "")
        for item, count in play.inventory.items()
    ]
    used = sum(play.level.items[item].slots * count for item, count in play.inventory.items())
    full = f"   ({used} of {slots} slots)" if slots is not None else ""
    found = [Said("carried", (", ".join(units) or "nothing") + full)]
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

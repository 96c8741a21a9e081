"""Finding what a typed line asks for."""

from __future__ import annotations

import re
from collections.abc import Mapping

from ..level.maps.tilemap import BUILT_IN, cell_of
from ..level.names import in_list, nearest
from ..rules import PLACE, Move
from ..rules.words import move_words, some
from .options import Option
from .play import Play
from .trying import NotUnderstoodError, ThingHere, choose, refusal, with_item

#: The questions to the dialogue itself, with their answers.
COMMANDS = {
    "as": "as PLAYER: whose turn it is; `PLAYER: go ROOM` is one move of another",
    "look": "show again where you are and your options",
    "map": "draw the map around you",
    "inventory": "what you carry",
    "why": "why THING: its needs, and where the needed things are",
    "hint": "the next move of a shortest finishing run from here",
    "undo": "undo, or undo 3: take moves back",
    "redo": "make a move again that was taken back",
    "restart": "back to the start",
    "tried": "what has been tried so far, and what has not",
    "save": "save FILE: keep the moves made so far",
    "load": "load FILE: play the moves of a saved session",
    "help": "this list",
    "quit": "leave",
}

#: The verbs of moves, with what they ask for.
VERBS = {
    "go": "go ROOM: walk there, also further off if nothing is in the way",
    "take": "take ITEM",
    "unlock": "unlock DOOR, or unlock DOOR with ITEM",
    "open": "open CHEST, or open CHEST with ITEM",
    "do": "do ACT, also for switches; use ITEM, or use ITEM on DOOR",
    "drop": "drop ITEM",
    "give": "give ITEM to PLAYER",
    "finish": "end the run if the goal holds",
}

#: Other words for the same.
_ALSO = {"walk": "go", "use": "do", "pull": "do", "exit": "quit", "put": "drop", "?": "help"}


def find_verb(word: str) -> str:
    """The command or verb that a word stands for; it may be cut short where that is clear.

    Raises:
        NotUnderstoodError: It stands for none, or for several.

    Example:
        >>> find_verb("unl"), find_verb("walk")
        ('unlock', 'go')
        >>> find_verb("re")
        Traceback (most recent call last):
        ukemi.playing.trying.NotUnderstoodError: 're' could be redo or restart
    """
    folded = word.casefold()
    known = [*COMMANDS, *VERBS]
    if folded in known or folded in _ALSO:
        return _ALSO.get(folded, folded)
    starting = [one for one in known if one.startswith(folded)]
    if len(starting) == 1:
        return starting[0]
    if starting:
        raise NotUnderstoodError(f"{word!r} could be {' or '.join(starting)}")
    near = nearest(word, known)
    hint = f"did you mean {near!r}?" if near else "`help` lists what there is"
    raise NotUnderstoodError(f"there is no command {word!r}; {hint}")


def find_option(play: Play, verb: str, name: str, whole: bool = False) -> Option:
    """The option that a verb and a name ask for.

    Args:
        verb: One of :data:`VERBS`.
        name: The name, or its beginning.
        whole: Whether the name has to be whole.

    Raises:
        NotUnderstoodError: There is none, with the reason, or there are several.
    """
    name = _as_asked(verb, name)
    names = _names(play, verb)
    if name not in names:
        name = name.removesuffix(" again")
    if name not in names and (near := _nearest_cell(play, verb, name)) is not None:
        return near
    if verb == "go" and name not in names:
        _refuse_here(play, name)
    # A complete name, even one that is not possible now, is not taken for the beginning of another.
    found = _matching(names, name, whole or name in _all_names(play, verb))
    unlike = {option.asked: option for option in found}
    if (said := f"{verb} {name}") in unlike:
        return unlike[said]  # as it is offered, whatever else has the name
    if len(unlike) == 1:
        return next(iter(unlike.values()))
    if unlike:
        could = " or ".join(f"`{asked}`" for asked in unlike)
        raise NotUnderstoodError(f"`{f'{verb} {name}'.strip()}` could be {could}")
    raise NotUnderstoodError(_why_not(play, verb, name))


def try_option(play: Play, verb: str, name: str, whole: bool = False) -> Option:
    """Return the option for a verb and a name, as a player tries things: also with a key, or a wrong one.

    Args:
        play: The play; an attempt that fails is counted in it.
        verb: One of :data:`VERBS`.
        name: The name of a thing, or ``THING with ITEM``, or, after ``use``, ``ITEM`` or ``ITEM on THING``.
        whole: Whether the name has to be whole.

    Raises:
        NotUnderstoodError: There is no such option, with the reason.
    """
    pair = with_item(name)
    shut = [one for one in things_here(play) if one.lock is not None]
    if verb == "do" and (name in play.level.items or (pair and pair[0] in play.level.items)):
        item, target = pair or (name, None)
        if target is None:
            fitting = [one for one in shut if _opening(play, one, item)]
            if not shut:
                raise NotUnderstoodError(f"nothing here is locked: {item} is of no use")
            if len(fitting or shut) > 1:
                which = in_list([f"`use {item} on {one.name}`" for one in fitting or shut], "or")
                raise NotUnderstoodError(f"`use {item}` could be {which}")
            return _attempt(play, (fitting or shut)[0], item)
        pair = (target, item)
    if verb in ("unlock", "open", "do") and pair is not None:
        thing = choose(shut, pair[0])
        if thing is not None and pair[1] in play.level.items:
            return _attempt(play, thing, pair[1])
    try:
        option = find_option(play, verb, name, whole)
        beside = verb == "go" and any(one.asked == f"go {name}" for one in things_here(play))
        if beside and option.what["to"] != name:  # a walk to another cell beside the same gate
            raise NotUnderstoodError(_why_not(play, verb, name))
        return option
    except NotUnderstoodError as error:
        if (pair or (name,))[0] in play.opened and verb in ("unlock", "open", "do"):
            raise NotUnderstoodError(f"{(pair or (name,))[0]} is open already") from None
        if pair is not None and pair[0] in play.level.things:
            raise NotUnderstoodError(_why_not(play, verb, pair[0])) from None
        tried = choose(shut, name) if verb in ("unlock", "open") else None
        if tried is None and any(one.startswith(f"{name}@") for one in play.level.things):
            raise NotUnderstoodError(
                f"no {name} is here; `go {name}` walks to the nearest"
            ) from None
        if tried is None:
            raise
        play.tried.attempt(tried.name, "without")
        own = play.senses.text(tried, "shut")
        raise NotUnderstoodError(f"{error}. {own}" if own else str(error)) from None


def things_here(play: Play) -> list[ThingHere]:
    """The things in the player's room that the player sees and can try, items aside."""
    return list(play.senses.around(play.position, play.room))


def _opening(play: Play, thing: ThingHere, item: str) -> Option | None:
    """The option that opens a thing with an item, spent or kept; ``None`` if it does not fit or suffice."""
    if thing.lock is None or item not in play.inventory:
        return None
    options = [
        one for one in play.moves()
        if one.what["do"] in ("unlock", "open") and one.what["name"] == thing.name
    ]  # fmt: skip
    spending = [one for one in options if item in one.what.get("with", {})]
    fitting = options if play.senses.fits(thing.lock, item) else []
    return next(
        iter([*spending, *fitting]), None
    )  # a chest may take what its lock does not ask for


def _attempt(play: Play, thing: ThingHere, item: str) -> Option:
    option = _opening(play, thing, item)
    if option is not None:
        return option
    carried = item in play.inventory
    assert thing.lock is not None
    if carried and play.senses.fits(thing.lock, item):
        raise NotUnderstoodError(_why_not(play, thing.verb, thing.name))
    if carried:
        play.tried.attempt(thing.name, "wrong")
    raise NotUnderstoodError(refusal(play.senses, thing, item, carried))


def find_bare(play: Play, name: str) -> tuple[str, str] | None:
    """Return the verb and the name that a bare name stands for; ``None`` if nothing here has it.

    Raises:
        NotUnderstoodError: Several things have it.
    """
    thing = choose(things_here(play), name)
    if thing is not None:
        return thing.verb, thing.name
    for option in play.moves():
        verb, _, rest = option.asked.partition(" ")
        if name in (rest, option.what.get("name")):
            return verb, rest
    level = play.level
    if any(one.startswith(f"{name}@") for one in level.things):
        return "go", name
    kinds = {"door": "unlock", "chest": "open", "act": "do", "switch": "do", "passage": "go"}
    if name in level.things and level.things[name].kind in kinds:
        return kinds[level.things[name].kind], name
    return ("take", name) if name in level.items else ("go", name) if name in level.rooms else None


def _nearest_cell(play: Play, verb: str, name: str) -> Option | None:
    """The option for the nearest of several cells with one symbol: ``door`` for ``door@5,4`` and others."""
    if not any(one.startswith(f"{name}@") for one in play.level.things):
        return None
    options = [
        option
        for asked, some_ in _names(play, verb).items()
        if asked.startswith(f"{name}@")
        for option in some_
    ]
    return min(options, key=lambda one: one.steps, default=None)


_repeated = re.compile(r"(.+), ([1-9][0-9]{0,5}) times").fullmatch
_several = re.compile(r"(take|drop|put down) ([1-9][0-9]{0,5}) (\S.*)").fullmatch
_walk = re.compile(
    r"walk to (\S+)(?: (?:by|over) (\S.*?))?(?: with (.+?))?(?: \(([0-9]+) steps\))?"
).fullmatch


def find_route_line(play: Play, line: str) -> Option | None:
    """Return the option that a line of a printed route stands for.

    Args:
        line: A line such as ``take 2 iron-key``, ``do lever, 3 times`` or ``walk to pit by
            pit-door (4 steps)``.

    Returns:
        The option; ``None`` if the line is not of such a kind, or there is no such walk.

    Raises:
        NotUnderstoodError: It is a move that cannot be made so often.
    """
    words = " ".join(line.split())
    if several := _several(words):
        verb = find_verb(several[1].split()[0])
        return _again(play, find_option(play, verb, several[3]), int(several[2]))
    if repeated := _repeated(words):
        verb, _, name = repeated[1].partition(" ")
        return _again(play, find_option(play, find_verb(verb), name), int(repeated[2]))
    walk = _walk(words)
    if walk is None:
        return None
    steps = int(walk[4]) if walk[4] else None
    return play.choices.walk_of_route(play.position, walk[1], walk[2], steps)


def _again(play: Play, option: Option, times: int) -> Option:
    """An option repeated several times in a row."""
    moves: list[Move] = []
    here = play.position
    for number in range(times):
        for move in option.moves:
            after = play.rules.after(here, move)
            if after is None:
                raise NotUnderstoodError(
                    f"`{option.asked}` can be done {number} times, not {times}"
                )
            moves.append(move)
            here = after
    words = f"{option.asked}, {times} times" if times > 1 else option.asked
    return Option(tuple(moves), here, option.asked, words)


def _refuse_here(play: Play, name: str) -> None:
    """Refuse a walk to the room that the player is in."""
    here = {play.room, _label(play, play.room) or play.room, *play.choices.things(play.position)}
    if name.casefold() in {one.casefold() for one in here}:
        raise NotUnderstoodError(f"you are at {name} already")


def _as_asked(verb: str, name: str) -> str:
    """A name without the word that routes put before it: `walk to quay`, `put down lantern`."""
    word = {"go": "to ", "drop": "down "}.get(verb, "")
    return name.removeprefix(word)


def _names(play: Play, verb: str) -> dict[str, list[Option]]:
    """Return the names that the options of a verb answer to."""
    names: dict[str, list[Option]] = {}

    def call(name: str, option: Option) -> None:
        if option not in names.setdefault(name, []):
            names[name].append(option)

    for option in play.moves():
        word, _, rest = option.asked.partition(" ")
        same = {word, "open" if word == "unlock" else "unlock" if word == "open" else word}
        if verb in same:
            call(rest, option)
        if verb == "go" and option.what["do"] == "walk":
            call(option.what["name"], option)
            for thing in play.choices.things_at(option):
                call(thing, option)
    asked = dict.fromkeys(names)
    if verb == "go":
        for option in play.choices.reachable(play.position).values():
            if option.what["to"] not in asked:
                call(option.what["to"], option)
    else:  # as routes say it: what it spends besides
        for option in [one for found in names.values() for one in found]:
            whole = move_words({key: one for key, one in option.what.items() if key != "by"})
            words = _as_asked(verb, whole.partition(" ")[2])
            if option.asked == f"{whole} again" and words not in asked:
                call(words, option)  # nothing else of the name can be taken
            # An option that spends nothing is named without its costs.
            free = option.asked == f"{whole} with nothing"
            if words not in asked and (free or whole.startswith(option.asked)):
                call(words, option)
    for name, options in list(names.items()):
        label = _label(play, name)
        if label:
            names.setdefault(label.casefold(), []).extend(options)
    return names


def _label(play: Play, name: str) -> str | None:
    level = play.level
    parts = (level.items.get(name), level.rooms.get(name))
    thing = level.things.get(name)
    for part in (*parts, thing.what if thing else None):
        label = getattr(part, "label", None)
        if label:
            return str(label)
    return None


def _matching(names: Mapping[str, list[Option]], name: str, whole: bool) -> list[Option]:
    if name in names:
        return names[name]
    folded = name.casefold()
    exact = [one for key, found in names.items() if key.casefold() == folded for one in found]
    if exact or whole or not name:
        return exact if name or exact else [one for found in names.values() for one in found]
    starting = [
        one for key, found in names.items() if key.casefold().startswith(folded) for one in found
    ]
    inside = [one for key, found in names.items() if folded in key.casefold() for one in found]
    return starting or inside


def _why_not(play: Play, verb: str, name: str) -> str:
    if play.over:
        return f"the run has ended; `undo` or `restart`, or `quit` ({verb} cannot be done)"
    if verb == "finish":
        ways = [option.asked for option in play.moves() if option.what["do"] == "finish"]
        if ways:
            return f"`finish {name}` is not possible here, but `{ways[0]}` is"
        return f"cannot finish yet: the goal is `{play.goal}`"
    if not name:
        return f"nothing to {verb} here"
    waiting = play.waiting.here(play.position)
    name = name.removesuffix(" again")  # an item that was put down and cannot be taken up now
    starting = [one for one in _all_names(play, verb) if one.startswith(name)]
    name = starting[0] if len(starting) == 1 else name
    for thing, why in waiting.items():
        if name.casefold() == thing.casefold():
            return f"{thing}: {why}"
    known = _all_names(play, verb)
    if verb == "go" and name not in known and _is_floor(play, name):
        return f"{name} is floor with nothing on it to walk to"
    if name not in known:
        near = nearest(name, known)
        hint = f"; did you mean {near!r}?" if near else ""
        return f"nothing is called {name!r}{hint}"
    if verb == "go" and name not in play.level.rooms:
        return f"no walk from {play.room} leads to {name}; `why {name}` says where it is"
    if verb == "go":
        toward = _ways_toward(play, name)
        shut = [
            f"{thing}: {why}"
            for thing, why in waiting.items()
            if thing in toward or thing == f"way to {name}"
        ]
        more = f" ({some(shut, 3)})" if shut else ""
        return f"no way to {name} is open from {play.room}{more}"
    if any(move.what.get("name") == name or move.what.get("item") == name
           for move in play.rules.moves_at(play.position[PLACE])):  # fmt: skip
        return f"{name}: there is nothing left to {verb}"
    return f"{name}: not in {play.room}; `why {name}` says where it is"


def _ways_toward(play: Play, room: str) -> set[str]:
    """The doors and passages here that a walk to a room can begin with, were they all open."""
    return {
        one.thing
        for one in play.level.passages
        for here, there in one.walks()
        if here == play.room and room in play.level.connected([there], around=here)
    }


def _is_floor(play: Play, name: str) -> bool:
    """Whether a name is that of a cell one can stand on."""
    cell = cell_of(name)
    floor = play.level.maps.get(cell.map) if cell else None
    if cell is None or floor is None:
        return False
    tile = {**BUILT_IN, **play.level.legend}[floor.symbol(cell.column, cell.row)]
    return tile.ground not in ("wall", "void") and not tile.is_solid


def _all_names(play: Play, verb: str) -> set[str]:
    level = play.level
    if verb == "go":
        return {*level.rooms, *(one.name for one in level.passages), *level.items, *level.things}
    if verb in ("take", "drop"):
        return {*level.items}
    return {*level.things}

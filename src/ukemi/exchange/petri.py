"""A level as a place/transition net, for Petri-net tools: PNML, ISO/IEC 15909-2.

Every variable is a place with as many tokens as its value. If a move asks for few or none of them, a
second place complements it: the sum of both never changes. T. Murata, "Petri nets: properties, analysis
and applications", Proceedings of the IEEE 77 (1989), 541-580.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from itertools import islice, product
from xml.etree import ElementTree as Xml

from ..level import Level
from ..rules import DEAD, END, FINISHED, PLACE, PLAYING
from ..rules.actions import Action
from ..rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ..rules.most import most_values
from ..rules.words import move_words
from ..values import dataclass, field
from .sayable import CannotBeSaidError, sayable

_SPACE = "http://www.pnml.org/version-2009/grammar/pnml"
_TYPE = "http://www.pnml.org/version-2009/grammar/ptnet"
#: More transitions than this are more than any tool takes.
MOST = 20_000
#: The greatest number of alternatives of a guard that the net includes.
MOST_TRIES = 200_000

#: Between what some variables are: the least and, where there is one, the most.
_Ranges = dict[int, tuple[int, int | None]]


@dataclass(frozen=True)
class Transition:
    """A transition: a move as it turns out, from one room.

    Attributes:
        name: The move in words.
        takes, gives: Tokens by place.
    """

    name: str
    takes: dict[str, int] = field(hash=False)
    gives: dict[str, int] = field(hash=False)


@dataclass(frozen=True)
class Net:
    """A place/transition net.

    Attributes:
        name: The name of the transition.
        places: Its places, with the tokens in each at first.
        transitions: Its transitions.
        goal: The place that has a token where the level is finished.
    """

    name: str
    places: dict[str, int]
    transitions: list[Transition]
    goal: str


def petri_net(level: Level) -> Net:
    """A level as a net.

    Raises:
        CannotBeSaidError: Something in the level has no words there; the message names it.

    Example:
        >>> from ukemi.language import loads
        >>> level = loads("{start: quay, goal: mill, rooms: [quay, mill], passages: [quay -> mill]}")
        >>> [one.name for one in petri_net(level).transitions]
        ['walk to mill, in quay', 'finish, in mill']
    """
    return _NetWriter(level).net()


class _NetWriter:
    """Makes the net of one level."""

    def __init__(self, level: Level) -> None:
        self.name = level.name
        self.rules, self.actions = sayable(level, "PNML")
        self.start = self.rules.start()
        self.most = most_values(self.rules, self.actions)
        self.tries = 0

    def net(self) -> Net:
        """The net."""
        every = (one for action in self.actions for one in self._of(action))
        transitions = [*islice(every, MOST + 1)]
        if len(transitions) > MOST:
            raise CannotBeSaidError(f"the net would have more than {MOST:,} transitions")
        named = dict.fromkeys(place for one in transitions for place in (*one.takes, *one.gives))
        named |= dict.fromkeys((self._end(PLAYING), self._end(FINISHED)))
        tokens = self._tokens()
        places = {place: tokens[place] for place in named}
        return Net(self.name, places, transitions, self._end(FINISHED))

    def _tokens(self) -> dict[str, int]:
        """The tokens that each place has at first."""
        start = self.start
        tokens = {
            self._at(room): int(room == start[PLACE]) for room in range(len(self.rules.places))
        }
        tokens |= {self._end(end): int(end == start[END]) for end in (PLAYING, FINISHED, DEAD)}
        for variable in range(END + 1, len(start)):
            tokens[self._place(variable)] = start[variable]
            tokens[self._other(variable)] = (self.most[variable] or 0) - start[variable]
        return tokens

    def _at(self, room: int) -> str:
        return f"at {self.rules.places[room]}"

    def _end(self, end: int) -> str:
        return {PLAYING: "playing", FINISHED: "finished", DEAD: "dead"}[end]

    def _place(self, variable: int) -> str:
        return " ".join(map(str, self.rules.variables[variable]))

    def _other(self, variable: int) -> str:
        return f"not {self._place(variable)}"

    # -- transitions --------------------------------------------------------------------------

    def _of(self, action: Action) -> Iterator[Transition]:
        """The transitions of an action: one for each way in which its conditions can hold."""
        seen = set()
        for ranges in self._ways(action.source[0], [*action.branch.conditions], {}):
            if (same := frozenset(ranges.items())) not in seen:
                seen.add(same)
                yield from self._transitions(action, ranges)

    def _transitions(self, action: Action, ranges: _Ranges) -> Iterator[Transition]:
        # what is set to a number has to be taken away first: one transition for each that it can be
        split = []
        for variable in action.branch.becomes:
            if variable not in (PLACE, END):
                low, high = ranges.get(variable, (0, self._bound(variable)))
                split.append(
                    [(variable, value) for value in range(low, self._top(variable, high) + 1)]
                )
        for chosen in product(*split):
            exact = {**ranges, **{variable: (value, value) for variable, value in chosen}}
            made = self._transition(action, exact)
            if made is not None:
                yield made

    def _ways(self, place: int, wanted: list[Expression], ranges: _Ranges) -> Iterator[_Ranges]:
        """The ways in which several conditions hold together, each as a range for every variable."""
        left = [*wanted]
        choices: list[tuple[Expression, ...]] = []
        while left:
            match left.pop():
                case AllOf(parts=parts):
                    left += parts
                case Negated(part=AnyOf(parts=parts)):
                    left += map(Negated, parts)
                case Negated(part=Negated(part=part)):
                    left.append(part)
                case AnyOf(parts=parts):
                    choices.append(parts)
                case Negated(part=AllOf(parts=parts)):
                    choices.append(tuple(map(Negated, parts)))
                case Negated(part=Is(variable=number, value=value)) if number not in (PLACE, END):
                    more = AtLeast(number, value + 1)
                    if value:
                        choices.append((Negated(AtLeast(number, value)), more))
                    else:
                        left.append(more)
                case plain:
                    narrowed = self._narrowed(place, plain, ranges)
                    if narrowed is None:
                        return
                    ranges = narrowed
        if not choices:
            yield ranges
            return
        first, *others = sorted(choices, key=len)
        for one in first:
            self.tries += 1
            if self.tries > MOST_TRIES:
                raise CannotBeSaidError("what moves ask for can hold in too many ways for a net")
            yield from self._ways(place, [one, *map(AnyOf, others)], ranges)

    def _narrowed(self, place: int, wanted: Expression, ranges: _Ranges) -> _Ranges | None:
        """Narrow ranges by one more condition; ``None`` if it cannot hold in them."""
        positive = not isinstance(wanted, Negated)
        inner = wanted if positive else wanted.part  # type: ignore[attr-defined]
        match inner:
            case Is(variable=variable, value=value) if variable == PLACE:
                return ranges if (value == place) == positive else None
            case Is(variable=variable, value=value) if variable == END:
                return ranges if (value == PLAYING) == positive else None
            case AtLeast(variable=variable, least=least):
                new = (least, None) if positive else (0, least - 1)
            case Is(variable=variable, value=value):
                new = (value, value)
            case Within():
                raise CannotBeSaidError("`slots`: a sum of what is carried has no words in a net")
            case _:
                raise TypeError(f"no way to ask {inner!r}")
        low, high = ranges.get(variable, (0, None))
        high = new[1] if high is None else high if new[1] is None else min(high, new[1])
        low = max(low, new[0])
        if (high is not None and low > high) or self._beyond(variable, low):
            return None
        return {**ranges, variable: (low, high)}

    def _beyond(self, variable: int, low: int) -> bool:
        most = self.most[variable] if variable not in (PLACE, END) else None
        return most is not None and low > most

    def _bound(self, variable: int) -> int:
        most = self.most[variable]
        if most is None:
            raise CannotBeSaidError(
                f"{self._place(variable)}: its count has no bound; a net asks only for what has one"
            )
        return most

    def _top(self, variable: int, high: int | None) -> int:
        bound = self._bound(variable)
        return bound if high is None else min(high, bound)

    def _transition(self, action: Action, ranges: _Ranges) -> Transition | None:
        (here, _), (there, end), branch = action.source, action.target, action.branch
        takes: Counter[str] = Counter({self._at(here): 1, self._end(PLAYING): 1})
        gives: Counter[str] = Counter({self._at(there): 1, self._end(end): 1})
        for variable in ranges.keys() | action.changed:
            low, high = ranges.get(variable, (0, None))
            more = branch.adds.get(variable, 0)
            if variable in branch.becomes:
                more = branch.becomes[variable] - low
            if not self._counted(variable, low, high, more, takes, gives):
                return None
        words = f"{move_words(action.move.what)}, in {self.rules.places[here]}"
        return Transition(words, dict(takes), dict(gives))

    def _counted(
        self, variable: int, low: int, high: int | None, more: int,
        takes: Counter[str], gives: Counter[str],
    ) -> bool:  # fmt: skip
        """Take and give the tokens of a variable and, where it has a bound, of its complement."""
        most = self.most[variable]
        need = max(low, -more)
        takes[self._place(variable)] += need
        gives[self._place(variable)] += need + more
        if most is None:
            if high is not None:
                self._bound(variable)
            return True
        room = max(0 if high is None else most - high, more, 0)
        if room > most or need > most:
            return False
        takes[self._other(variable)] += room
        gives[self._other(variable)] += room - more
        return True


def pnml(net: Net) -> str:
    """The text of a PNML file."""
    root = Xml.Element("pnml", {"xmlns": _SPACE})
    whole = Xml.SubElement(root, "net", {"id": "level", "type": _TYPE})
    _text(whole, "name", net.name)
    page = Xml.SubElement(whole, "page", {"id": "page"})
    ids = {place: f"p{number}" for number, place in enumerate(net.places)}
    for place, tokens in net.places.items():
        element = Xml.SubElement(page, "place", {"id": ids[place]})
        _text(element, "name", place)
        if tokens:
            _text(element, "initialMarking", str(tokens))
    arcs = 0
    for number, one in enumerate(net.transitions):
        element = Xml.SubElement(page, "transition", {"id": f"t{number}"})
        _text(element, "name", one.name)
        ends = [(ids[place], f"t{number}", n) for place, n in one.takes.items()]
        ends += [(f"t{number}", ids[place], n) for place, n in one.gives.items()]
        for source, target, tokens in ends:
            if tokens:
                about = {"id": f"a{arcs}", "source": source, "target": target}
                arc = Xml.SubElement(page, "arc", about)
                arcs += 1
                if tokens > 1:
                    _text(arc, "inscription", str(tokens))
    Xml.indent(root)
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode") + "\n"
    )


def _text(parent: Xml.Element, name: str, text: str) -> None:
    Xml.SubElement(Xml.SubElement(parent, name), "text").text = text

"""Every question as a formula over sets of positions, whatever space holds them.

F are the finished positions, W those from which one of them can be reached (may be reached, where the
search was cut short). Computation tree logic: E. M. Clarke and E. A. Emerson, "Design and synthesis
of synchronization skeletons using branching time temporal logic", 1981.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterable, Iterator
from functools import cached_property
from itertools import combinations
from typing import Any

from ..facts.find_finish import find_finish
from ..level import Condition, Level, Passage
from ..level.conditions import SomeoneAt
from ..level.joined import Joined
from ..rules import DEAD, FINISHED, PLACE, PLAYING, Move, Position, Rules
from ..rules.expressions import Negated, Within
from ..rules.variables import Names
from ..spaces import CutShortError, Route, replay
from ..spaces.alike import Alike
from ..spaces.dominators import Dominators
from ..spaces.space import Run, Space
from .answers import Answer, settled
from .at_least import costs_at_least
from .before import Before
from .keys import units_as_sum
from .order import GATE, ROOM, Pairs
from .questions import Questions
from .reason import Reason, Reasons, never_hopeless
from .result import Mistake
from .statuses import status
from .subjects import Subject
from .unless_cut import or_cut, unless_cut

#: Sets of rewards to try, at the most, for a smallest one that no run has together.
MOST_SETS = 20_000

#: Positions to look at for a finishing run that keeps out of a room.
AROUND = 50_000


class OverSets(Questions):
    """Answers questions from the sets of a space.

    Args:
        level: The level.
        rules: Its rules.
        space: The sets of its positions.
        witness: A finishing run, if one is known that the space may lack.
    """

    def __init__(
        self, level: Level, rules: Rules, space: Space, witness: list[Move] | None = None
    ) -> None:
        super().__init__(level, rules, space.limits)
        self.space = space
        self._witness = witness
        self.complete: bool = space.complete
        self._known_before: dict[str, Any] = {}

    # -- the sets -----------------------------------------------------------------------------

    @cached_property
    def playing(self) -> Any:
        """The positions in which the run goes on."""
        return self.space.ended(PLAYING)

    @cached_property
    def finished(self) -> Any:
        """The finished positions."""
        return self.space.ended(FINISHED)

    @cached_property
    def can_finish(self) -> Any:
        """The positions from which a finishing run was found."""
        return self.space.before(self.finished)

    @cached_property
    def lost(self) -> Any:
        """The positions from which it is proven that nothing finishes, though the run goes on."""
        if self.complete:
            return self.playing - self.can_finish
        return self.playing - self.space.before(self.finished | self.space.unexplored)

    def undone(self, name: str, among: Any) -> Any:
        """Those of some positions in which a subject was not done."""
        subject = self.subject(name)
        return self.space.having(subject.variable, subject.before, among)

    def done(self, name: str, among: Any = None) -> Any:
        """Those of some positions in which a subject was done; of all that were reached, if not said."""
        among = self.space.reachable if among is None else among
        return among - self.undone(name, among)

    def see_by(self, subject: Subject) -> None:
        """Let another variable show whether something was done."""
        self._by_name[subject.name] = subject

    def at(self, room: str) -> Any:
        """The positions in which a player is in a room."""
        if self.level.several:
            return self.space.where(self._names.guard(SomeoneAt(room)))
        return self.space.at(self.rules.places.index(room))

    @cached_property
    def _names(self) -> Names:
        return Names(self.level)

    def _rooms(self, positions: Any) -> set[str]:
        """The rooms in which a player is in some positions."""
        if not self.level.several:
            return {self.rules.places[place] for place in self.space.places(positions)}
        return {room for room in self.rules.places if positions & self.at(room)}

    def _open(self, positions: Any) -> Any:
        """Some positions, and those that were not looked into."""
        return positions if self.complete else positions | self.space.unexplored

    def tidy(self) -> None:
        self.space.tidy()

    # -- runs ---------------------------------------------------------------------------------

    def _route(self, run: Run, *more: Move, certain: bool = True) -> Route:
        """A run and further moves, replayed by the rules of the level."""
        at_least = run.at_least + sum(move.cost for move in more) if certain else 0
        moves = [*run.moves, *more]
        if self.alike is not None:
            moves = self.alike.told(moves)
        return replay(self.rules, moves, at_least=at_least)

    @property
    def alike(self) -> Alike | None:
        """What tells players apart again, where one position stands for all that are alike."""
        return self.space.alike

    def _run_to(self, positions: Any, at_least: Callable[[], int] | None = None) -> Any:
        """A run into some positions; what can finish was never lost on the way."""
        if self.complete and positions <= self.can_finish:
            return self.space.run_to(positions, self.can_finish, at_least)
        return self.space.run_to(positions)

    @unless_cut(None)
    def _route_to(
        self, positions: Any, certain: bool = True, must_do: bool = False
    ) -> Route | None:
        """A route into some positions; where asked, none cheaper than what it must do is looked for."""
        bounded = must_do and not isinstance(self.level, Joined) and not self.level.several
        run = self._run_to(positions, (lambda: self.at_least(positions)) if bounded else None)
        return None if run is None else self._route(run, certain=certain)

    def at_least(self, positions: Any) -> int:
        """The least that any run into some positions costs, by what each must do."""
        return costs_at_least(self.rules, self.space, positions).least

    def _quickest(self, leading: dict[Move, Any]) -> tuple[Run, Move] | None:
        """The cheapest run to one of some moves, the move itself the last."""
        runs = [(self._run_to(sources), move) for move, sources in leading.items()]
        return min(runs, key=lambda one: (one[0].cost + one[1].cost, one[1].number), default=None)

    # -- who can finish, get stuck, die -------------------------------------------------------

    @property
    def all_seen(self) -> bool:
        return self.complete

    @property
    def positions(self) -> int:
        return int(self.space.count(self.space.reachable))

    @property
    def finish(self) -> Answer:
        return settled(bool(self.finished) or self._witness is not None, self.complete)

    @cached_property
    def stuck(self) -> Answer:
        return self._stuck()

    @unless_cut(Answer.UNKNOWN)
    def _stuck(self) -> Answer:
        if self.lost:
            return Answer.POSSIBLE
        return Answer.NEVER if self.complete else Answer.UNKNOWN

    @property
    def deadly(self) -> Answer:
        if not any(item.vital for item in self.level.items.values()):
            return Answer.NO
        return settled(bool(self.space.ended(DEAD)), self.complete)

    @cached_property
    def _finishing(self) -> Route | None:
        return self._route_to(self.finished, must_do=True)

    def finishing(self) -> Route | None:
        if self._finishing is None and self._witness is not None:
            return replay(self.rules, self._witness)
        return self._finishing

    @unless_cut(None)
    def dying(self) -> Route | None:
        return self._route_to(self.space.ended(DEAD))

    @cached_property
    def _reasons(self) -> Reasons:
        hopeless = self._hopeless if self.space.by_position else never_hopeless
        return Reasons(self.level, self.rules, self.limits, hopeless)

    def _hopeless(self, position: Position) -> bool:
        """Whether it is proven that nothing finishes from a position, as far as that is at hand."""
        return bool(self.space.contains(self.lost, position))

    def can_finish_from(self, position: Position) -> Answer:
        good, lost = self._good_and_lost
        if good is not None and self.space.contains(good, position):
            return Answer.YES
        known_lost = lost is not None and self.space.contains(lost, position)
        return Answer.NO if known_lost else Answer.UNKNOWN

    @cached_property
    def _good_and_lost(self) -> tuple[Any, Any]:
        """The positions that can finish, and those that cannot; ``None`` where time was over first."""
        return self._if_in_time(lambda: self.can_finish), self._if_in_time(lambda: self.lost)

    @unless_cut(None)
    def _if_in_time(self, ask: Callable[[], Any]) -> Any:
        return ask()

    def explain(self, route: Route) -> Reason:
        position = route.positions[-1]
        rooms, dies = self._ahead(position) or (None, False)
        return self._reasons.explain(position, route, rooms, dies)

    @unless_cut(None)
    def _ahead(self, position: Position) -> tuple[set[str], bool] | None:
        """The rooms that can be come to from a position, and whether the player can die there."""
        ahead = self.space.after(self.space.only(position))
        return self._rooms(ahead), bool(ahead & self.space.ended(DEAD))

    def explained_start(self) -> Reason | None:
        start = replay(self.rules, [])
        return None if start.positions[0][1] == DEAD else self.explain(start)

    @or_cut
    def losing_moves(self) -> Iterable[Move]:
        moves = self._losing_moves()
        if self.alike is None:
            return moves
        orders = list(self.alike.orders())
        return {self.alike.renamed(move, names) for move in moves for names in orders}

    def _losing_moves(self) -> dict[Move, Any]:
        """The moves that lose the level, with the positions each does so from."""
        return self.space.leading(self.can_finish, self.lost)

    def mistakes(self) -> Iterator[tuple[Reason, Mistake]]:
        told = self._quickest_mistakes()
        for run, move in sorted(told, key=lambda one: (one[0].cost + one[1].cost, one[1].number)):
            route = self._route(run, move, certain=self.complete)
            for one in self._by_each(route):
                yield self.explain(one), Mistake(one.moves[-1].what, one)

    def _by_each(self, route: Route) -> Iterator[Route]:
        """A route, and the same where players that are alike have each other's names."""
        alike, seen = self.alike, set()
        for names in [{}] if alike is None else alike.orders():
            moves = route.moves if alike is None else [alike.renamed(m, names) for m in route.moves]
            what = json.dumps(moves[-1].what)
            if what not in seen:
                seen.add(what)
                yield replay(self.rules, moves, at_least=route.at_least)

    @unless_cut([])
    def _quickest_mistakes(self) -> list[tuple[Run, Move]]:
        kinds: dict[str, dict[Move, Any]] = {}
        for move, sources in self._losing_moves().items():
            kinds.setdefault(self._kind(move), {})[move] = sources
        found = [self._quickest(one) for one in kinds.values()]
        return [one for one in found if one is not None]

    def _kind(self, move: Move) -> str:
        """The same for moves that differ only by which of several players that are alike makes them."""
        if self.alike is None:
            return json.dumps(move.what)
        names = ("by", "to") if move.what["do"] == "give" else ("by",)
        return json.dumps({key: one for key, one in move.what.items() if key not in names})

    @property
    def knows_mistakes(self) -> bool:
        return self.complete and self.stuck.proven

    @unless_cut(None)
    def stuck_somewhere(self) -> tuple[Reason, Route] | None:
        route = self._route_to(self.lost, certain=self.complete)
        return None if route is None else (self.explain(route), route)

    # -- what runs do -------------------------------------------------------------------------

    @unless_cut(Answer.UNKNOWN)
    def status(self, subject: Subject) -> Answer:
        self.limits.check()
        without = self.undone(subject.name, self.finished)
        some = bool(self.finished - without)
        reached = some or bool(self.done(subject.name))
        return status(some, bool(without), reached, self.complete)

    @unless_cut(Answer.UNKNOWN)
    def status_of_any(self, names: list[str]) -> Answer:
        self.limits.check()
        done = self.done(names[0]) if names else self.finished - self.finished
        for name in names[1:]:
            done = done | self.done(name)
        finished = self.finished
        return status(bool(finished & done), bool(finished - done), bool(done), self.complete)

    @unless_cut(Answer.UNKNOWN)
    def room_status(self, room: str) -> Answer:
        self.limits.check()
        here = self.at(room)
        some = bool(here & self.can_finish)
        around = some and self._can_be_left_out(room)
        return status(some, around, bool(here), self.complete)

    def _can_be_left_out(self, room: str) -> bool:
        """Whether some finishing run never enters a room, of those found."""
        if self._finishing is not None and room not in self._on_the_way:
            return True
        if not self.level.several and self._only_through(room, self.finished):
            return False
        return bool(self.not_yet(room + ROOM) & self.finished)

    def _only_through(self, room: str, positions: Any) -> bool:
        """Whether every way to some positions enters a room, were every passage open."""
        place = self.rules.places.index(room)
        return self._dominators.dominates(place, self.space.places(positions))

    @cached_property
    def _dominators(self) -> Dominators:
        leads: list[set[int]] = [set() for _ in self.rules.places]
        for move in self.rules.moves:
            if (to := move.leads_to) is not None:
                for place in move.places:
                    leads[place].add(to)
        return Dominators(leads, self.rules.start()[PLACE])

    @cached_property
    def _on_the_way(self) -> set[str]:
        """The rooms that a finishing run enters: all others can be done without."""
        route = self.finishing()
        positions = [] if route is None else route.positions
        return {room for position in positions for room in self.rules.rooms_of(position)}

    def not_yet(self, name: str) -> Any:
        """The positions on runs that have not done, entered or walked through something."""
        key = f"{name}before"
        if key not in self._known_before:
            start = self.space.start
            if name.endswith(GATE):
                walks = self.gates[name.removesuffix(GATE)]
                self._known_before[key] = self.space.after(start, without=walks)
            elif name.endswith(ROOM) and self.level.several:
                self._known_before[key] = self._never_in(self.at(name.removesuffix(ROOM)))
            elif name.endswith(ROOM):
                place = self.rules.places.index(name.removesuffix(ROOM))
                start = start - self.space.at(place)
                self._known_before[key] = self.space.after(start, around=place) if start else start
            else:
                self._known_before[key] = self._never_in(self.done(name))
        return self._known_before[key]

    def _never_in(self, positions: Any) -> Any:
        """The positions on runs that have been in none of some positions."""
        start = self.space.start - positions
        return self.space.after(start, avoiding=positions) if start else start

    @unless_cut(None)
    def finishing_without(self, names: list[str]) -> Route | None:
        left = self.finished
        for name in names:
            left = self.undone(name, left)
        return self._route_to(left)

    @unless_cut(None)
    def finishing_around(self, room: str) -> Route | None:
        if room in self.rules.rooms_of(self.rules.start()):
            return None

        def there(position: Position) -> bool:
            return room in self.rules.rooms_of(position)

        moves = find_finish(self.rules, self.rules.start(), AROUND, there, self.limits)
        return None if moves is None else replay(self.rules, moves, at_least=_cost(moves))

    # -- order --------------------------------------------------------------------------------

    def required_gates(self) -> list[str] | None:
        route = self.finishing()
        if route is None or not self.complete:
            return [] if self.complete else None
        walked = {move.number for move in route.moves}
        gates = [name for name, walks in self.gates.items() if walked & walks]
        return self._if_in_time(lambda: [one for one in gates if self._is_required(one)])  # type: ignore[no-any-return]

    def _is_required(self, gate: str) -> bool:
        return not self.not_yet(gate + GATE) & self.finished

    def order(self, required: list[str], rooms: list[str], gates: list[str]) -> Pairs | None:
        names = [*required, *(room + ROOM for room in rooms), *(gate + GATE for gate in gates)]
        return self._order(names) if self.complete else None

    @unless_cut(None)
    def _order(self, names: list[str]) -> Pairs | None:
        if self._finishing is None:
            return () if not names else None
        return Before(self, self._finishing).order(names)

    def done_in_all(self, name: str, positions: Any) -> bool:
        """Whether something was done, entered or walked on every way to some positions."""
        if not name.endswith((ROOM, GATE)):
            subject = self.subject(name)
            return not self.space.having(subject.variable, subject.before, positions)
        if name.endswith(ROOM) and not self.level.several:
            room = name.removesuffix(ROOM)
            return self._only_through(room, positions) or not positions & self.not_yet(name)
        return not positions & self.not_yet(name)

    # -- rewards ------------------------------------------------------------------------------

    @unless_cut((Answer.UNKNOWN, None))
    def with_every_reward(self) -> tuple[Answer, Route | None]:
        self.limits.check()
        every = self.finished
        for subject in self.rewards.values():
            every = self.done(subject, every)
        route = self._route_to(every, must_do=True)
        return settled(bool(every), self.complete), route

    @unless_cut((Answer.UNKNOWN, None))
    def missable(self, subject: str) -> tuple[Answer, Route | None]:
        self.limits.check()
        left = self.undone(subject, self.can_finish & self.playing)
        taken = self.done(subject, self.finished)
        in_reach = self.space.before(self._open(taken))
        missed = left - in_reach
        if not missed:
            return settled(False, self.complete), None
        if missed & self.space.start:
            return Answer.YES, None
        in_reach = in_reach if self.complete else self.space.before(taken)
        leading = self.space.leading(in_reach, missed)
        found = self._quickest(leading)
        if found is None:
            return Answer.YES, None
        run, move = found
        return Answer.YES, self._route(run, move, certain=self.complete)

    @unless_cut((None, None))
    def taking(self, subject: str) -> tuple[Reason | None, Route | None]:
        route = self._route_to(self.done(subject))
        if route is None:
            return None, None
        stuck = self.space.contains(self.lost, route.positions[-1])
        return (self.explain(route) if stuck else None), route

    @unless_cut([])
    def excluding(self) -> list[str]:
        if not self.complete:
            return []
        taken = {name: self.done(one, self.finished) for name, one in self.rewards.items()}
        names = [name for name, some in taken.items() if some]

        def together(some: tuple[str, ...]) -> bool:
            left = self.finished
            for name in some:
                left = left & taken[name]
            return bool(left)

        if not names or together(tuple(names)):
            return []
        tried = 0
        for size in range(2, len(names) + 1):
            for some in combinations(names, size):
                tried += 1
                if not together(some):
                    return list(some)
                if tried > MOST_SETS or self.limits.over:
                    return _thinned(tuple(names), together)
        return []

    # -- doors, claims, keys ------------------------------------------------------------------

    @unless_cut(None)
    def way_round(self, door: Passage) -> tuple[str, Route] | None:
        self.limits.check()
        sides = [
            (room, self.undone(door.thing, self.can_finish & self.at(room)))
            for room in dict.fromkeys(door.ends)
        ]
        if not all(there for _, there in sides):
            return None
        routes = [(room, self._route_to(there, self.complete)) for room, there in sides]
        room, route = max(routes, key=lambda one: one[1].steps if one[1] else 0)
        return None if route is None else (room, route)

    @or_cut
    def comes_without(self, room: str, names: Collection[str]) -> bool:
        self.limits.check()
        if self._coming_without(room, names):
            return True
        if not self.complete:
            raise CutShortError  # a run that was not found may do it
        return False

    def _coming_without(self, room: str, names: Collection[str]) -> Any:
        """The positions in a room from which one can finish, with none of some things done."""
        left = self.can_finish & self.at(room)
        for name in names:
            left = self.undone(name, left)
        return left

    @unless_cut((Answer.UNKNOWN, None))
    def holding(self, condition: Condition) -> tuple[Answer, Route | None]:
        found = self.space.where(self._names.guard(condition))
        return settled(bool(found), self.complete), self._route_to(found)

    @unless_cut((Answer.UNKNOWN, None))
    def losing(self, condition: Condition) -> tuple[Answer, Route | None]:
        holds = self.space.where(self._names.guard(condition))
        lost = self.playing - self.space.before(self._open(holds))
        return settled(bool(lost), self.complete), self._route_to(lost, certain=self.complete)

    @unless_cut(None)
    def most_left(self, item: str) -> tuple[int, int] | None:
        if not self.complete or not self.finished:
            return None
        constant, terms = units_as_sum(self.level, self.rules, item)
        initial = constant + sum(n * self.rules.initial[variable] for variable, n in terms)
        most, least = initial, -1  # more than `least`, and at most `most`
        while most - least > 1:
            middle = (most + least) // 2
            more = Negated(Within(tuple(terms), middle - constant))
            if self.finished & self.space.where(more):
                least = middle
            else:
                most = middle
        return initial, most

    @unless_cut(frozenset())
    def never_entered(self) -> frozenset[str]:
        if not self.complete:
            return frozenset()
        entered = self._rooms(self.space.reachable)
        return frozenset(self.level.rooms.keys() - entered)


def _cost(moves: list[Move]) -> int:
    return sum(move.cost for move in moves)


def _thinned(names: tuple[str, ...], together: Callable[[tuple[str, ...]], bool]) -> list[str]:
    """A set that excludes each other and of which none can be left out, if not a smallest."""
    for name in names:
        rest = tuple(one for one in names if one != name)
        if not together(rest):
            names = rest
    return list(names)

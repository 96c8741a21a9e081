"""Which units of spent keys are spare: the level without them is asked again.

A set of units is spare if the level without them answers no worse: it can still be finished, no new way
to get stuck appears, and every reward is in reach as before. Where a player may leave a unit lying, or in what gives
nothing else, the positions of the level without it are those in which it is still there; else a copy of the level is
searched.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from ..level import Act, Chest, Effects, Level, LevelError
from ..level.asked import all_conditions
from ..level.conditions import Atom, Done, HasAll, Opened, atoms
from ..level.joined import Joined
from ..spaces import CutShortError
from ..spaces.part import PartOfSpace
from ..spaces.space import S
from . import can_finish, get_stuck, missable, status, together
from .answers import Answers, KeyMeasure
from .context import AnyContext, Context
from .evidence import few_positions, gather
from .named_sets import Sets
from .verdict import Answer

#: The number of positions to search in all levels without some units, and the tries allowed in a larger
#: level.
POSITIONS, FEWEST_TRIES = 60_000, 4

#: The name for the inventory at the start, as a source of a unit.
START = "start"


def with_spare(context: Context[S], answers: Answers) -> Answers:
    """Return the answers of a level with the units of its keys that can be spared.

    Args:
        context: The level that the answers are about.
        answers: The answers; if a finishing run leaves some units of a key unused, the level is tried
            without each, within a budget of tries.
    """
    keys = answers.measures.keys
    if all(one.all_tried for one in keys.values()):
        return answers
    trials = _Trials(context, answers)
    found = {item: one if one.all_tried else trials.of(item, one) for item, one in keys.items()}
    return replace(answers, measures=replace(answers.measures, keys=found))


class _Trials:
    """Tries the level without some of its units."""

    def __init__(self, context: AnyContext, answers: Answers) -> None:
        self.context = context
        self.before = answers
        large = context.positions > few_positions(context.rules)
        few = 0 if large else context.limits.few
        self.limits = replace(context.limits, on_answer=None, few=few)
        self.left = max(0 if large else POSITIONS // max(context.positions, 1), FEWEST_TRIES)

    def of(self, item: str, measure: KeyMeasure) -> KeyMeasure:
        """Return the measure of a key with the units that can be spared together."""
        most = measure.placed - measure.needed
        spare: list[str] = []
        left = dict(units_of(self.context.level, item))
        all_tried = sum(left.values()) == measure.placed
        ahead = list(left)
        while ahead:
            where = ahead.pop(0)
            if len(spare) == most:
                return _found(measure, spare, True)
            if self.left <= 0:
                return _found(measure, spare, False)
            self.left -= 1
            no_worse = self._no_worse(item, [*spare, where])
            if no_worse:
                spare.append(where)
                left[where] -= 1
                # Without this one, another may be spared that could not be before.
                earlier = [one for one in left if one not in (*ahead, where) and left[one]]
                ahead = [*([where] if left[where] else []), *ahead, *earlier]
            all_tried = all_tried and no_worse is not None
        return _found(measure, spare, all_tried)

    def _no_worse(self, item: str, without: Sequence[str]) -> bool | None:
        """Whether the level answers no worse without some units of an item; ``None`` if the limits were met first.

        Args:
            without: Where each of the units is.
        """
        try:
            context = left_lying(self.context, without)
            if context is None:
                level = self.context.level
                for where in without:
                    level = without_unit(level, item, where)
                context = gather(level, self.limits)
            return all(self._each_no_worse(context))
        except (CutShortError, LevelError):
            return None

    def _each_no_worse(self, context: AnyContext) -> Iterator[bool]:
        """Whether one answer after another is no worse, those that are quick to get first.

        Raises:
            CutShortError: An answer is undecided: it may be worse or not.
        """
        before = self.before
        if before.finish != Answer.NO:
            yield _proven(can_finish.possible(context)) == Answer.YES
        if before.all_rewards != Answer.NO:
            yield _proven(together.possible(context)) == Answer.YES
        lasting: list[str] = []
        for name, reward in before.rewards.items():
            subject = context.rewards.get(name)
            if subject is None:  # the unit left out was the reward
                yield reward.status == Answer.NEVER
                continue
            yield _proven(status.ask(context, [subject])) == reward.status
            if reward.missable != Answer.YES:
                lasting.append(subject)
        lasts = missable.none_of(context, lasting)  # if so, it says much about who can get stuck
        if before.stuck != Answer.POSSIBLE:
            yield _proven(get_stuck.ask(context).answer) == Answer.NEVER
        if not lasts:
            for subject in lasting:
                yield _proven(missable.possible(context, subject)) == Answer.NO


def left_lying(context: Context[S], without: Sequence[str]) -> Context[S] | None:
    """Return the positions in which some units are still where they were, as a level without them.

    Args:
        without: Where each of the units is, as :class:`~ukemi.questions.answers.KeyMeasure` names places.

    Returns:
        Those; ``None`` where that is another question, or where not all positions are known.

    Raises:
        CutShortError: Time or memory ended first.
    """
    level = context.level
    if not context.all_seen or isinstance(level, Joined) or level.rules.pickup == "touch":
        return None
    counts = Counter(without)
    asked = {atom for one in all_conditions(level) for atom in atoms(one.condition)}
    if not all(_may_be_left(context, where, count, asked) for where, count in counts.items()):
        return None

    def lying(sets: Sets[S]) -> S:
        kept = sets.space.reachable
        for where, count in counts.items():
            one = sets.subjects[where]
            if one.kind == "item":
                for fewer in range(count):
                    kept = kept - sets.space.having(one.variable, fewer, kept)
            else:
                kept = sets.space.having(one.variable, one.before, kept)
        return kept

    kept = context.decide_or_cut(free=lambda _: None, sets=lying)
    if kept is None:
        return None
    return Context(level, context.rules, context.limits, PartOfSpace(context.sets.space, kept))


def _may_be_left(context: AnyContext, where: str, count: int, asked: set[Atom]) -> bool:
    """Whether a player who leaves some units where they are has the same choices as in a level without them.

    Args:
        where: Where they are.
        count: How many of them are meant.
        asked: Every atom of the level's conditions.
    """
    level, thing = context.level, context.by_name.get(where)
    if thing is None or where == START:
        return False
    room_name, _, item = where.rpartition("/")
    if thing.kind == "item":
        return not level.rooms[room_name].items[item].pile and HasAll(item) not in asked
    match level.things[where].what:
        case Chest(holds=holds, lock=lock, effects=effects):
            gives, plain = Counter(holds), lock is None and not effects
        case Act(effects=effects, teaches=teaches):
            gives, plain = Counter(effects.gives), effects == Effects(gives=effects.gives)
            plain = plain and not teaches
        case _:
            return False
    items = [one for one in gives if gives[one]]
    unasked = asked.isdisjoint({Opened(where), Done(where), *map(HasAll, items)})
    return plain and unasked and len(items) == 1 and gives.total() == count


def _proven(answer: Answer) -> Answer:
    if not answer.proven:
        raise CutShortError
    return answer


def _found(measure: KeyMeasure, spare: list[str], all_tried: bool) -> KeyMeasure:
    return replace(measure, spare=len(spare), spare_in=tuple(spare), all_tried=all_tried)


def units_of(level: Level, item: str) -> Iterator[tuple[str, int]]:
    """Where the units of an item are, each with how many; the last units of a place come last."""
    for room in level.rooms.values():
        if item in room.items:
            yield f"{room.name}/{item}", room.items[item].count
        for chest in room.chests.values():
            if count := Counter(chest.holds)[item]:
                yield chest.name, count
        for act in room.all_acts():
            if count := act.effects.gives.get(item, 0):
                yield act.name, count
    for event in level.events.values():
        if count := event.effects.gives.get(item, 0):
            yield event.name, count
    if (count := level.inventory.start.get(item, 0)) and not level.several:
        yield START, count


def without_unit(level: Level, item: str, where: str) -> Level:
    """Return a copy of a level with one unit less of an item.

    Args:
        where: Where the unit is, as :class:`~ukemi.questions.answers.KeyMeasure` names places.
    """
    copy = level.copy()
    copy.rooms, copy.events = dict(level.rooms), dict(level.events)
    if where == START:
        start = _less(copy.inventory.start, item)
        copy.inventory = replace(copy.inventory, start=start)
        return copy
    if where in copy.events:
        event = copy.events[where]
        copy.events[where] = replace(event, effects=_gives_less(event.effects, item))
        return copy
    for name, room in level.rooms.items():
        if where == f"{name}/{item}" and item in room.items:
            items = dict(room.items)
            pile = items.pop(item)
            if pile.count > 1:
                items[item] = replace(pile, count=pile.count - 1)
            copy.rooms[name] = replace(room, items=items)
        elif where in room.chests:
            chest = room.chests[where]
            fewer = replace(chest, holds=_less(chest.holds, item))
            copy.rooms[name] = replace(room, chests={**room.chests, where: fewer})
        else:
            copy.rooms[name] = replace(
                room,
                acts=_with_less(room.acts, where, item),
                switches=_with_less(room.switches, where, item),
            )
    copy._index()
    return copy


def _with_less(acts: dict[str, Act], name: str, item: str) -> dict[str, Act]:
    """Return acts with one unit less in the named act, if it is among them."""
    return {
        one: replace(act, effects=_gives_less(act.effects, item)) if one == name else act
        for one, act in acts.items()
    }


def _less(counts: Mapping[str, int], item: str) -> dict[str, int]:
    return {one: n - (one == item) for one, n in counts.items() if n > (one == item)}


def _gives_less(effects: Effects, item: str) -> Effects:
    return replace(effects, gives=_less(effects.gives, item))

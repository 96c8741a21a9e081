"""Can a reward be missed? So it is if (W ∩ playing - taken) - before(F ∩ taken) is not empty."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

from ..facts.interchange import Interchange, Swap
from ..level import Level, Place
from ..rules import Move
from ..spaces import Route, replay
from ..spaces.space import Run, S
from .answers import RewardAnswer
from .context import Context
from .named_sets import Sets
from .subjects import Subject
from .verdict import Answer, settled

if TYPE_CHECKING:
    from .free_level import FreeLevel

#: For each reward that can be missed, the run to the move that misses it.
Missed = dict[str, Route | None]


def possible(context: Context[S], subject: str) -> Answer:
    """Return whether a reward can be missed, without looking for a run that misses it."""
    context = context.remembering_rewards
    return context.decide(
        Answer.UNKNOWN,
        free=lambda free: _missed_if_free(free, subject),
        sets=lambda sets: settled(bool(_missed(context, sets, subject)[1]), sets.complete),
    )


def none_of(context: Context[S], subjects: Collection[str]) -> bool:
    """Return whether it is quickly proven that none of some rewards can be missed.

    So it is if all of them are in reach together from wherever the level can be finished: if no position from
    which they are not is the last before the finish.
    """
    context = context.remembering_rewards

    def by_sets(sets: Sets[S]) -> bool:
        if not sets.complete:
            return False
        left = sets.playing - sets.can_take(subjects)
        return not (left and sets.space.leading(left, sets.finished))

    return context.decide(
        False,
        free=lambda free: all(_missed_if_free(free, one) == Answer.NO for one in subjects),
        sets=by_sets,
    )


def _missed_if_free(free: FreeLevel, subject: str) -> Answer:
    """A reward that is never possible is missed from the start; a possible reward stays possible."""
    return settled(free.can_finish and not free.reached(subject))


def _missed(context: Context[S], sets: Sets[S], subject: str) -> tuple[S, S]:
    """The positions in which a reward is still in reach, and those that miss it.

    If everything is still in reach, no reward is missed. From any other position, no move leads back to there.
    What was taken stays taken: from there, every finishing run has it.
    """
    context.limits.check()
    left = sets.undone(subject, sets.can_finish & sets.playing)
    if not sets.complete:
        taken = sets.done(subject, sets.finished)
        in_reach = sets.space.before(sets.or_unexplored(taken))
        return in_reach, left - in_reach
    everything = sets.can_take(context.rewards.values())
    if left <= everything:
        return everything, sets.nothing
    less = left - everything
    thing = sets.subjects[subject]
    taking = sets.space.leading(less, sets.can_finish, (thing.variable, thing.before))
    in_reach = everything | sets.space.before(sets.joined(taking.values()), less)
    return in_reach, left - in_reach


def of_all(
    context: Context[S], statuses: Mapping[str, Answer]
) -> tuple[dict[str, RewardAnswer], Missed]:
    """Return what finishing runs do about each reward by name, and how it can be missed.

    Args:
        statuses: The status of each subject, by name.
    """
    shown_by = context.rules
    context = context.remembering_rewards
    rewards = list(dict.fromkeys(context.rewards.values()))
    answers: dict[str, RewardAnswer] = {}
    losing: dict[str, Mapping[Move, S]] = {}
    like = _like_earlier(context)
    kept: Collection[str] = context.decide(
        [], free=lambda free: [], sets=lambda sets: _never_missed(sets, rewards)
    )
    for name, subject in context.rewards.items():
        if subject in kept:
            answers[name] = RewardAnswer(statuses[subject], Answer.NO)
            continue
        if name in like:
            answers[name] = RewardAnswer(statuses[subject], answers[like[name][0]].missable)
            continue
        answer, moves = _answer(context, subject)
        answers[name] = RewardAnswer(statuses[subject], answer)
        if moves:
            losing[name] = moves
    routes = _quickest(context.sets, losing) if losing else {}
    for name, (earlier, swap) in like.items():
        if earlier in routes:
            run = swap.run(shown_by, routes[earlier].moves)
            routes[name] = replay(shown_by, run, at_least=routes[earlier].at_least)
    return answers, {name: routes.get(name) for name in answers}


def _never_missed(sets: Sets[S], subjects: Collection[str]) -> Collection[str]:
    """Return rewards that are proven together never to be missed; often all rewards that cannot be missed.

    First it leaves out the rewards that can be missed with all others taken. The rest is proven if it is in reach
    together from wherever the level can be finished. For few positions, one reward after the other is as quick.
    """
    if sets.space.by_position or not sets.complete:
        return []
    hopeful = list(subjects)
    while hopeful:
        lost = (sets.can_finish & sets.playing) - sets.can_take(hopeful)
        if not lost:
            break
        missed = _missed_last(sets, hopeful, lost)
        hopeful = [one for one in hopeful if one not in missed] if missed else []
    return hopeful


def _missed_last(sets: Sets[S], subjects: Sequence[str], lost: S) -> set[str]:
    """Return the rewards that can be missed with all others of the given rewards taken.

    Args:
        lost: Positions from which no finishing run takes all of these rewards.
    """
    sets.space.limits.check()
    if not lost or len(subjects) < 2:
        return set(subjects) if lost else set()
    half = len(subjects) // 2
    found = set[str]()
    for some, others in (
        (subjects[:half], subjects[half:]),
        (subjects[half:], subjects[:half]),
    ):
        left = lost
        for name in others:
            left = sets.done(name, left)
        found |= _missed_last(sets, some, left)
    return found


def _like_earlier(context: Context[S]) -> dict[str, tuple[str, Swap]]:
    """Return the rewards that can swap places with an earlier reward, each with that reward and the swap.

    For few positions, one reward after the other is as quick.
    """
    if context.free is not None or context.sets.space.by_position:
        return {}
    interchange = Interchange(context.sets.relaxed)
    found: dict[str, tuple[str, Swap]] = {}
    firsts: dict[str, Subject] = {}
    for name, subject in context.rewards.items():
        if context.limits.over:
            break
        thing = context.by_name[subject]
        for first, other in firsts.items():
            swap = interchange.swap(other.variable, thing.variable)
            if swap is not None and other.before == thing.before:
                found[name] = first, swap
                break
        else:
            firsts[name] = thing
    return found


def _answer(context: Context[S], subject: str) -> tuple[Answer, Mapping[Move, S]]:
    """Whether a reward can be missed, and the moves that miss it, each with the positions it misses it from."""

    def by_sets(sets: Sets[S]) -> tuple[Answer, Mapping[Move, S]]:
        in_reach, missed = _missed(context, sets, subject)
        if not missed:
            return settled(False, sets.complete), {}
        if missed & sets.space.start:
            return Answer.YES, {}
        if not sets.complete:
            in_reach = sets.space.before(sets.done(subject, sets.finished))
        return Answer.YES, sets.space.leading(in_reach, missed)

    nothing: tuple[Answer, Mapping[Move, S]] = (Answer.UNKNOWN, {})
    return context.decide(
        nothing, free=lambda free: (_missed_if_free(free, subject), {}), sets=by_sets
    )


def _quickest(sets: Sets[S], losing: Mapping[str, Mapping[Move, S]]) -> dict[str, Route]:
    """Return, for each reward, a cheapest run to a move that misses it, if one is found in time.

    One move often misses several rewards. So rewards that are missed by much the same moves share a search: a
    cheapest run to a move that misses any of them is a cheapest one for each that this move misses.
    """
    found: dict[str, Route] = {}
    left = dict(losing)
    together = sets.space.alike is None  # a run does not show in which of like positions it ends
    while left:
        first = next(iter(left))
        group = [one for one in left if together and _much_the_same(left[one], left[first])]
        group = group or [first]
        best = _quickest_of(sets, [left[one] for one in group])
        if len(group) > 1 and (best is None or not best[0].shortest):
            together = False  # each reward by itself may be found sooner
        elif best is None:
            del left[first]
        else:
            run, move = best
            route = sets.route(run, move, certain=sets.complete)
            if len(group) > 1:
                before = replay(sets.rules, run.moves).positions[-1]
                shared = [one for one in group if move in left[one]]
                group = [one for one in shared if sets.space.contains(left[one][move], before)]
            for one in group:
                found[one] = route
                del left[one]
    return found


def _quickest_of(sets: Sets[S], losing: Iterable[Mapping[Move, S]]) -> tuple[Run, Move] | None:
    """The cheapest run to a move that misses one of some rewards, and the move; ``None`` if time or memory ends first."""

    def quickest() -> tuple[Run, Move] | None:
        moves: dict[Move, S] = {}
        for one in losing:
            for move, sources in one.items():
                moves[move] = moves[move] | sources if move in moves else sources
        return sets.quickest(moves)

    return sets.in_time(quickest, None)


def _much_the_same(some: Mapping[Move, S], other: Mapping[Move, S]) -> bool:
    return 2 * len(some.keys() & other.keys()) >= len(some.keys() | other.keys())


def reward_place(level: Level, subject: str) -> Place | None:
    """Return where the thing that hands over a reward stands in the file."""
    thing = level.things.get(subject)
    if thing is not None:
        return thing.what.place
    room, _, item = subject.rpartition("/")
    return level.rooms[room].items[item].place

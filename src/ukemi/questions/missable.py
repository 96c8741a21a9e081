"""Can a reward be missed? So it is if (W ∩ playing - taken) - before(F ∩ taken) is not empty."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import TYPE_CHECKING

from ..level import Level, Place
from ..spaces import Route
from ..spaces.space import S
from .answers import RewardAnswer
from .context import Context
from .named_sets import Sets
from .verdict import UNDECIDED, Answer, Verdict, settled

if TYPE_CHECKING:
    from .free_level import FreeLevel

#: For each reward that can be missed, the run to the move that misses it.
Missed = dict[str, Route | None]


def ask(context: Context[S], subject: str) -> Verdict:
    """Return whether a reward can be missed, with a cheapest run to the move that misses it.

    Args:
        subject: The name of what hands the reward over.
    """
    context = context.remembering_rewards

    def by_sets(sets: Sets[S]) -> Verdict:
        in_reach, missed = _missed(context, sets, subject)
        if not missed:
            return Verdict(settled(False, sets.complete))
        if missed & sets.space.start:
            return Verdict(Answer.YES)
        if not sets.complete:
            in_reach = sets.space.before(sets.done(subject, sets.finished))
        found = sets.quickest(sets.space.leading(in_reach, missed))
        route = None if found is None else sets.route(*found, certain=sets.complete)
        return Verdict(Answer.YES, route)

    return context.decide(
        UNDECIDED, free=lambda free: Verdict(_missed_if_free(free, subject)), sets=by_sets
    )


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

    So it is if all of them are in reach together from wherever the level can be finished.
    """
    context = context.remembering_rewards

    def by_sets(sets: Sets[S]) -> bool:
        return sets.complete and sets.can_finish & sets.playing <= sets.can_take(subjects)

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
    answers, missed = {}, {}
    for name, subject in context.rewards.items():
        verdict = ask(context, subject)
        answers[name] = RewardAnswer(statuses[subject], verdict.answer)
        missed[name] = verdict.route
    return answers, missed


def reward_place(level: Level, subject: str) -> Place | None:
    """Return where the thing that hands over a reward stands in the file."""
    thing = level.things.get(subject)
    if thing is not None:
        return thing.what.place
    room, _, item = subject.rpartition("/")
    return level.rooms[room].items[item].place

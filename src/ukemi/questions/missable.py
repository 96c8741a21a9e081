"""Can a reward be missed? So it is if (W ∩ playing - taken) - before(F ∩ taken) is not empty."""

from __future__ import annotations

from collections.abc import Mapping

from ..level import Level, Place
from ..spaces import Route
from ..spaces.space import S
from .answers import RewardAnswer
from .context import Context
from .named_sets import Sets
from .verdict import UNDECIDED, Answer, Verdict, settled

#: For each reward that can be missed, the run to the move that misses it.
Missed = dict[str, Route | None]


def ask(context: Context[S], subject: str) -> Verdict:
    """Return whether a reward can be missed, with a cheapest run to the move that misses it.

    Args:
        context: The level.
        subject: The name of what hands the reward over.
    """
    context = context.remembering_rewards

    def by_sets(sets: Sets[S]) -> Verdict:
        context.limits.check()
        left = sets.undone(subject, sets.can_finish & sets.playing)
        taken = sets.done(subject, sets.finished)
        in_reach = sets.space.before(sets.or_unexplored(taken))
        missed = left - in_reach
        if not missed:
            return Verdict(settled(False, sets.complete))
        if missed & sets.space.start:
            return Verdict(Answer.YES)
        in_reach = in_reach if sets.complete else sets.space.before(taken)
        found = sets.quickest(sets.space.leading(in_reach, missed))
        route = None if found is None else sets.route(*found, certain=sets.complete)
        return Verdict(Answer.YES, route)

    return context.decide(
        UNDECIDED,
        # A reward that is never possible is missed from the start; a possible reward stays possible.
        free=lambda free: Verdict(settled(free.can_finish and not free.reached(subject))),
        sets=by_sets,
    )


def of_all(
    context: Context[S], statuses: Mapping[str, Answer]
) -> tuple[dict[str, RewardAnswer], Missed]:
    """Return what finishing runs do about each reward by name, and how it can be missed.

    Args:
        context: The level.
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

"""Which rewards can be had, which can be missed, and which exclude each other.

A level that passes, and one that fails (the reward lies beyond a way that leads nowhere)::

    {start: quay, goal: mill, items: {ledger: {kind: reward}}, rooms: {quay: {items: ledger},
     mill: {}}, passages: [quay <-> mill]}
    {start: quay, goal: mill, items: {ledger: {kind: reward}}, rooms: {quay: {}, mill: {},
     race: {items: ledger}}, passages: [quay <-> mill, quay -> race]}
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import combinations

from ..level import Level, Place
from ..level.names import in_list
from ..rules import PLAYING
from ..rules.words import move_words
from ..search import Route, reaching
from .answers import Answer, settled
from .case import Case
from .cases import Cases
from .reason import reasons_of
from .result import Finding, RewardAnswer

#: Sets of rewards to try, at the most, for a smallest one that no run has together.
MOST_SETS = 100_000


def reward_answers(cases: Cases, statuses: dict[str, Answer]) -> dict[str, RewardAnswer]:
    """What finishing runs do about each reward, and whether it can be missed.

    Args:
        cases: The level under check.
        statuses: The status of every subject, by name.

    Returns:
        The answers, by the name of the reward.
    """
    return {
        name: RewardAnswer(statuses[subject], _can_be_missed(cases, subject, statuses[subject]))
        for name, subject in cases.whole.rewards.items()
    }


def _can_be_missed(cases: Cases, subject: str, status: Answer) -> Answer:
    if cases.all_is_free == Answer.YES and status in (Answer.REQUIRED, Answer.OPTIONAL):
        return Answer.NO  # nothing is ever lost
    return cases.missable(subject)


def missable(case: Case, bit: int) -> tuple[Answer, Route | None]:
    """Whether a reward can be missed, with the route to the move that misses it."""
    found = case.found
    taken = [number for number in case.finished if case.did[number] & bit]
    open_ends = [] if case.complete else case.unexplored
    can = reaching(found, taken)
    may = reaching(found, [*taken, *open_ends]) if open_ends else can

    def missed(number: int) -> bool:
        can_finish = case.can_finish[number] and found.ends[number] == PLAYING
        return bool(can_finish and not may[number] and not case.did[number] & bit)

    if missed(0):
        return Answer.YES, None
    best: tuple[int, int, int] | None = None
    slips = {}
    lost = bytearray(missed(number) for number in range(len(can)))
    for before, move, _ in found.between(can, lost):
        slip = (found.costs[before] + move.cost, before, move.number)
        slips[slip] = move
        best = slip if best is None else min(best, slip)
    if best is not None:
        return Answer.YES, case.replay([*found.route_to(best[1]), slips[best]])
    return settled(any(lost), case.complete), None


def all_rewards(case: Case) -> tuple[Answer, int | None]:
    """Whether one finishing run takes every reward.

    Args:
        case: What matters to finishing with the rewards.

    Returns:
        The answer, and the number of the cheapest finished position with every reward.
    """
    wanted = 0
    for subject in case.rewards.values():
        wanted |= case.bits[subject]
    for number in case.finished:
        if case.did[number] & wanted == wanted:
            return Answer.YES, number
    return settled(False, case.complete), None


def excluding(case: Case) -> list[str]:
    """A smallest set of rewards of which each can be had, but not all in one finishing run.

    Args:
        case: The level under check; its search is complete.

    Returns:
        The names of the rewards; none where they can all be had together.
    """
    bits = {name: case.bits[subject] for name, subject in case.rewards.items()}
    everything = 0
    for number in case.finished:
        everything |= case.did[number]
    wanted = {name: bit for name, bit in bits.items() if bit & everything}
    all_bits = sum(set(wanted.values()))
    runs = {case.did[number] & all_bits for number in case.finished}
    if not runs or all_bits in runs:
        return []
    runs = {run for run in runs if not any(run != other and run & other == run for other in runs)}

    def together(names: tuple[str, ...]) -> bool:
        mask = sum({wanted[name] for name in names})
        return any(run & mask == mask for run in runs)

    tried = 0
    for size in range(2, len(wanted) + 1):
        for names in combinations(wanted, size):
            tried += 1
            if not together(names):
                return list(names)
            if tried > MOST_SETS:
                return _thinned(tuple(wanted), together)
    return []


def _thinned(names: tuple[str, ...], together: Callable[[tuple[str, ...]], bool]) -> list[str]:
    """A set that excludes each other and of which none can be left out, if not a smallest."""
    for name in names:
        rest = tuple(one for one in names if one != name)
        if not together(rest):
            names = rest
    return list(names)


def check_rewards(
    cases: Cases, answers: dict[str, RewardAnswer], together: Answer
) -> Iterator[Finding]:
    """Tell what is wrong with the rewards.

    Args:
        cases: The level under check.
        answers: What is known of each.
        together: Whether one run takes them all.

    Yields:
        ``reward-out-of-reach``, ``reward-only-when-stuck``, ``reward-can-be-missed``,
        ``rewards-exclude-each-other``, ``undecided``.
    """
    claim = cases.level.expected.rewards
    grave, mild = ("note", "note") if claim == "any" else ("error", "warning")
    for name, answer in answers.items():
        subject = cases.whole.rewards[name]
        place = reward_place(cases.level, subject)
        if cases.goal.finish == Answer.NO:
            continue  # then no reward is in any finishing run, and that is told already
        if answer.status == Answer.NEVER:
            message = f"No run gets the reward {name}."
            mend = "see what its room, chest or act waits for"
            yield Finding("reward-out-of-reach", grave, name, message, "", mend, place)
        elif answer.status == Answer.ONLY_WHEN_STUCK:
            case = cases.about(subject)
            number = _first_with(case, subject)
            route = None if number is None else case.route_to(number)
            message = f"The reward {name} can be had, but whoever takes it can no longer finish."
            why, mend = "Taking it is the last thing the player does", "let it be taken earlier"
            if number is not None and route is not None and case.is_stuck(number):
                reason = reasons_of(case).explain(number, route)
                why, mend = reason.why, reason.mend
            yield Finding("reward-only-when-stuck", grave, name, message, why, mend, place, route)
        elif answer.missable == Answer.YES and (route := cases.missed(subject)) is not None:
            yield _missed(name, mild, place, route)
        unsure = not (answer.status.proven or _some_run_takes(cases.about(subject), subject))
        unsure = unsure or (claim == "never-missed" and not answer.missable.proven)
        if unsure and claim != "any":
            message = (
                f"Whether the reward {name} can be had is not settled: the search was cut short."
            )
            mend = "raise --max-positions or --max-seconds"
            yield Finding("undecided", "warning", name, message, "", mend, place)
    if together == Answer.NO and cases.goal.finish == Answer.YES:
        case = cases.about(*cases.whole.rewards.values())
        names = excluding(case) if case.complete else []
        if names:
            message = f"No finishing run takes {in_list(names)} together."
            why = "Each of them can be had, but taking some shuts out the rest"
            mend = "place another of what they compete for, or say `rewards: any` if that is meant"
            yield Finding(
                "rewards-exclude-each-other",
                mild,
                names[0],
                message,
                why,
                mend,
                reward_place(cases.level, case.rewards[names[0]]),
            )


def _missed(name: str, severity: str, place: Place | None, route: Route) -> Finding:
    wrong = route.moves[-1].what
    message = f"After `{move_words(wrong)}` the level can still be finished, but without {name}."
    mend = "keep a way back to it open, or say `rewards: any` if that is meant"
    return Finding("reward-can-be-missed", severity, name, message, "", mend, place, route, wrong)


def _first_with(case: Case, subject: str) -> int | None:
    bit = case.bits[subject]
    numbers = [number for number, mask in enumerate(case.did) if mask & bit]
    return min(numbers, key=case.found.costs.__getitem__, default=None)


def _some_run_takes(case: Case, subject: str) -> bool:
    return any(case.did[number] & case.bits[subject] for number in case.finished)


def reward_place(level: Level, subject: str) -> Place | None:
    """Where the thing that hands over a reward stands in the file."""
    thing = level.things.get(subject)
    if thing is not None:
        return thing.what.place
    room, _, item = subject.partition("/")
    return level.rooms[room].items[item].place

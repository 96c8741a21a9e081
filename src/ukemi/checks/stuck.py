"""Can anyone get stuck, and by which mistakes?

A level that passes, and one that fails (the key opens one of two doors)::

    {start: quay, goal: mill, items: {iron-key: {}}, rooms: {quay: {items: iron-key}, mill: {},
     store: {}}, passages: [quay <-> mill: {lock: iron-key}, quay <-> store: {lock: iron-key}]}
    the same with `iron-key: {use: spent}`
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass

from ..rules import PLAYING, Move
from ..rules.words import move_words
from .answers import Answer
from .case import Case
from .places import place_of_move, subject_of_move
from .reason import Reason, reasons_of
from .result import Finding, Mistake


@dataclass(eq=False)
class _Slip:
    """The cheapest way found into one kind of mistake."""

    cost: int
    before: int
    move: Move
    after: int


def find_mistakes(case: Case) -> list[_Slip]:
    """Every kind of move that loses the level, cheapest first.

    Args:
        case: What matters to finishing.

    Returns:
        For each kind, the move that costs least to reach, with the positions around it.
    """
    slips: dict[str, _Slip] = {}
    found = case.found
    lost = bytearray(
        not may and end == PLAYING for may, end in zip(case.may_finish, found.ends, strict=True)
    )
    for before, move, after in found.between(case.can_finish, lost):
        kind = json.dumps(move.what)
        cost = found.costs[before] + move.cost
        known = slips.get(kind)
        if known is None or (cost, before) < (known.cost, known.before):
            slips[kind] = _Slip(cost, before, move, after)
    return sorted(slips.values(), key=lambda slip: (slip.cost, slip.move.number))


def check_stuck(case: Case) -> list[Finding]:
    """Tell each mistake after which nothing finishes; those with one cause are one finding.

    Args:
        case: What matters to finishing.

    Returns:
        ``can-get-stuck`` for each cause, ``undecided``, or nothing.
    """
    allowed = case.level.expected.stuck == "possible"
    findings: list[Finding] = []
    causes: dict[tuple[str, ...], list[tuple[Reason, Mistake]]] = {}
    for reason, mistake in _explained(case):
        causes.setdefault(reason.cause, []).append((reason, mistake))
    for group in causes.values():
        group.sort(key=lambda one: (one[1].route.steps, one[1].route.moves[-1].number))
        (reason, first), *others = group
        subject = subject_of_move(case.level, first.move)
        findings.append(
            Finding(
                "can-get-stuck",
                "note" if allowed else "error",
                subject,
                f"After `{move_words(first.move)}` the level can no longer be finished.",
                reason.why,
                reason.mend,
                place_of_move(case.level, first.move),
                first.route,
                first.move,
                tuple(mistake for _, mistake in others),
                first.shortest,
            )
        )
    if not findings and case.stuck == Answer.POSSIBLE and case.finish != Answer.NO:
        findings.append(_stuck_without_mistake(case, "note" if allowed else "error"))
    if case.stuck == Answer.UNKNOWN and not allowed:
        message = "Whether anyone can get stuck is not settled: the search was cut short."
        mend = "raise --max-positions or --max-seconds"
        place = case.level.expected.places.get("stuck")
        findings.append(Finding("undecided", "warning", "stuck", message, mend=mend, place=place))
    return findings


def _explained(case: Case) -> Iterator[tuple[Reason, Mistake]]:
    """Each kind of mistake with its reason."""
    told = set()
    for slip in find_mistakes(case):
        routes = case.replay_all([*case.found.route_to(slip.before), slip.move])
        reason = reasons_of(case).explain(slip.after, routes[0])
        for route in routes:
            told.add(json.dumps(route.moves[-1].what))
            yield reason, Mistake(route.moves[-1].what, route, case.found.exact(slip.before))
    for wrong in case.wrong:
        if json.dumps(wrong.moves[-1].what) not in told:
            route = case.replay(wrong.moves)
            reason = reasons_of(case).explain_at(wrong.after, route, wrong.rooms, wrong.dies)
            yield reason, Mistake(route.moves[-1].what, route, shortest=False)


def _stuck_without_mistake(case: Case, severity: str) -> Finding:
    """A stuck position of a search cut short before any move into it was proven to be the mistake."""
    number = min(
        (n for n in range(len(case.found.positions)) if case.is_stuck(n)),
        key=case.found.costs.__getitem__,
    )
    route = case.route_to(number)
    reason = reasons_of(case).explain(number, route)
    last = route.moves[-1].what
    return Finding(
        "can-get-stuck",
        severity,
        subject_of_move(case.level, last),
        "This route ends where nothing finishes; the search was cut short before it could tell "
        "which of its moves is the mistake.",
        reason.why,
        reason.mend,
        place_of_move(case.level, last),
        route,
        shortest=case.found.exact(number),
    )

"""Separate the findings that the designer has accepted from the others.

A level that passes, and one that fails (nothing is unused there)::

    {start: quay, goal: mill, items: {decoy: {}}, rooms: {quay: {items: decoy}, mill: {}},
     passages: [quay <-> mill], accept: {unused-item: decoy}}
    the same with `accept: {unused-lock: decoy}`
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..findings.finding import Finding, flat
from ..level import Level


def sort_out(
    level: Level, findings: Sequence[Finding], complete: bool
) -> tuple[list[Finding], list[Finding]]:
    """Separate the findings that a level accepts from the others.

    Args:
        complete: Whether everything was settled: else what is accepted may only not be known yet.

    Returns:
        The findings to report, ``accepted-nothing`` included, and the accepted findings.
    """
    accepted = {(one.code, one.name) for one in level.accepted}
    listed: list[Finding] = []
    meant: list[Finding] = []
    for finding in findings:
        left = tuple(one for one in finding.follows if not subjects_of(one) <= accepted)
        (meant if subjects_of(finding) <= accepted else listed).append(
            replace(finding, follows=left)
        )
    matched = {one for finding in findings for one in codes_of(finding)}
    for one in level.accepted:
        if complete and (one.code, one.name) not in matched:
            message = f"`accept` names {one.code} for {one.name}, but that is not found."
            mend = f"take {one.name} out of `accept`, or write the name that the check prints"
            listed.append(
                Finding(
                    "accepted-nothing", "warning", one.name, message, mend=mend, place=one.place
                )
            )
    return listed, meant


def subjects_of(finding: Finding) -> set[tuple[str, str]]:
    """Return the codes of a finding, each with the thing that it is about."""
    others = (str(one.move.get("name", one.move.get("item"))) for one in finding.also)
    return {(finding.code, name) for name in (finding.subject, *others)}


def codes_of(finding: Finding) -> set[tuple[str, str]]:
    """Return the codes of a finding and of the findings that follow from it."""
    return set().union(*map(subjects_of, flat([finding])))

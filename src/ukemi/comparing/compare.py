"""Comparing the checks of two versions of a level."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from typing import Any

from ..checks import Answer, Finding, Report
from ..findings.finding import flat
from ..level.displayed import Displayed
from ..level.names import in_list
from ..questions.answers import KINDS
from ..rules.words import move_words
from ..values import dataclass
from .changes import level_changes
from .renames import Renamed, renamed

#: Proven good answers, each with the answers it may change to without being worse.
_GOOD = {
    "finish": Answer.YES,
    "stuck": Answer.NEVER,
    "deadly": Answer.NO,
    "all-rewards": Answer.YES,
}
#: The statuses of a thing, from the worst.
_HAD = (Answer.REQUIRED, Answer.OPTIONAL)

Figures = Mapping[str, Any]


@dataclass(frozen=True)
class Remark:
    """A sentence on what a change did.

    Attributes:
        says: The sentence.
        judged: ``worse``, ``better`` or ``different``.
    """

    says: str
    judged: str


@dataclass(frozen=True)
class Comparison(Displayed):
    """Compare two versions of a level.

    Attributes:
        old, new: The checks of both.
        verdict: The changed answers, one remark each; the worse first.
        changes: The changes in the level, by name, one sentence each.
        gone, come: Findings that are gone, and that are new; one that only moved is neither.
        measures: The name of each figure, with what it was and what it is.
        renames: Things that only have another name.
    """

    old: Report
    new: Report
    verdict: tuple[Remark, ...]
    changes: tuple[str, ...]
    gone: tuple[Finding, ...]
    come: tuple[Finding, ...]
    measures: tuple[tuple[str, Any, Any], ...]
    renames: tuple[Renamed, ...]

    __hash__ = None  # type: ignore[assignment]  # nor have the reports one

    @property
    def worse(self) -> bool:
        """Whether something got worse: an answer, or an error that is new."""
        errors = any(one.severity == "error" for one in self.come)
        return errors or any(one.judged == "worse" for one in self.verdict)

    @property
    def says_anything(self) -> bool:
        """Whether anything differs: an answer, the level, a finding or a figure."""
        return bool(
            self.verdict or self.changes or self.gone or self.come or self.measures or self.renames
        )

    def __repr__(self) -> str:
        how = "worse" if self.worse else "not worse"
        return (
            f"<Comparison of {self.new.level.name!r}: {how}, {len(self.changes)} changes, "
            f"{len(self.gone)} findings gone, {len(self.come)} new>"
        )


def compare_reports(old: Report, new: Report) -> Comparison:
    """Compare the checks of two versions of a level.

    Returns:
        The result of the comparison.
    """
    changes, names = level_changes(old.level, new.level)
    gone, come = _findings(old, new, names)
    remarks = [*_answers(old, new, come), *_statuses(old, new, names)]
    rank = {"worse": 0, "better": 1, "different": 2}
    return Comparison(
        old,
        new,
        tuple(sorted(remarks, key=lambda one: rank[one.judged])),
        tuple(changes),
        tuple(gone),
        tuple(come),
        tuple(_measures(_figures(old, names), _figures(new, []))),
        tuple(names),
    )


# -- the verdict ----------------------------------------------------------------------------------


def _answers(old: Report, new: Report, come: list[Finding]) -> Iterator[Remark]:
    before = {
        "finish": old.answers.finish, "stuck": old.answers.stuck,
        "deadly": old.answers.deadly, "all-rewards": old.answers.all_rewards,
    }  # fmt: skip
    after = {
        "finish": new.answers.finish, "stuck": new.answers.stuck,
        "deadly": new.answers.deadly, "all-rewards": new.answers.all_rewards,
    }  # fmt: skip
    for question, good in _GOOD.items():
        was, now = before[question], after[question]
        if question == "all-rewards" and Answer.NO in (old.answers.finish, new.answers.finish):
            continue  # the verdict already says that there is no run
        if was != now:
            judged = "better" if now == good else "worse" if was == good else "different"
            if not was.proven and now != good:
                judged = "worse"
            yield Remark(_WORDS[question][now] + _by(question, come, now), judged)
    for report, is_new in ((old, False), (new, True)):
        other = old if is_new else new
        for name in report.answers.levels.keys() - other.answers.levels.keys():
            yield Remark(f"the level {name} is {'new' if is_new else 'gone'}", "different")


_WORDS = {
    "finish": {
        Answer.YES: "it can be finished now",
        Answer.NO: "it can no longer be finished",
        Answer.UNKNOWN: "whether it can be finished is now undecided",
    },
    "stuck": {
        Answer.NEVER: "players can no longer get stuck",
        Answer.POSSIBLE: "now anyone can get stuck",
        Answer.UNKNOWN: "whether a player can get stuck is now undecided",
    },
    "deadly": {
        Answer.NO: "the player can no longer die",
        Answer.YES: "the player can die now",
        Answer.UNKNOWN: "whether the player can die is now undecided",
    },
    "all-rewards": {
        Answer.YES: "one run can take every reward now",
        Answer.NO: "no run can take every reward any more",
        Answer.UNKNOWN: "whether one run can take every reward is now undecided",
    },
}


_MISSABLE = {
    Answer.YES: "can be missed now",
    Answer.NO: "can no longer be missed",
    Answer.UNKNOWN: "may be missed now: undecided",
}


def _by(question: str, come: list[Finding], now: Answer) -> str:
    if question != "stuck" or now != Answer.POSSIBLE:
        return ""
    moves = [move_words(one.mistake) for one in come if one.mistake is not None]
    return f", by this: {in_list(dict.fromkeys(moves), 'or')}" if moves else ""


def _statuses(old: Report, new: Report, names: list[Renamed]) -> Iterator[Remark]:
    for name, now in new.answers.rewards.items():
        was = {renamed(key, names): one for key, one in old.answers.rewards.items()}.get(name)
        if was is None:
            continue
        if (was.status in _HAD) != (now.status in _HAD):
            had = now.status in _HAD
            words = {True: "can now be collected", False: _lost(now.status)}[had]
            yield Remark(f"the reward {name} {words}", "better" if had else "worse")
        elif was.missable != now.missable:
            words = _MISSABLE[now.missable]
            judged = "different" if was.missable == Answer.YES else "worse"
            judged = "better" if now.missable == Answer.NO else judged
            yield Remark(f"the reward {name} {words}", judged)
    for kind in KINDS:
        before = {renamed(key, names): one for key, one in getattr(old.answers, kind).items()}
        for name, status in getattr(new.answers, kind).items():
            was = before.get(name)
            if was is not None and was != status:
                became = "is now undecided" if not status.proven else f"became {status}"
                yield Remark(f"{name} {became}: it was {was}", "different")


def _lost(status: Answer) -> str:
    if status == Answer.ONLY_WHEN_STUCK:
        return "can now be collected only by getting stuck"
    return (
        "can no longer be collected" if status.proven else "may no longer be collected: undecided"
    )


# -- findings and figures -------------------------------------------------------------------------


def _findings(
    old: Report, new: Report, names: list[Renamed]
) -> tuple[list[Finding], list[Finding]]:
    """The findings that are gone and the new findings, matched by their subjects."""
    gone: dict[str, list[Finding]] = {}
    for one in flat(old.findings):
        gone.setdefault(_key(one, names), []).append(one)
    come = []
    for one in flat(new.findings):
        same = gone.get(_key(one, []))
        if same:
            same.pop()
        else:
            come.append(one)
    return [one for some in gone.values() for one in some], come


def _key(finding: Finding, names: list[Renamed]) -> str:
    """Return the subject of a finding; its line and its text do not count."""
    mistake = finding.mistake and {**finding.mistake, "with": None, "steps": None}
    about = [finding.code, finding.subject, mistake]
    return json.dumps(renamed(about, names), sort_keys=True)


def _measures(old: Figures, new: Figures) -> Iterator[tuple[str, Any, Any]]:
    for name in {**old, **new}:
        if old.get(name) != new.get(name):
            yield name, old.get(name), new.get(name)


def _figures(report: Report, names: list[Renamed]) -> Figures:
    measures = report.answers.measures
    finish, every, choices = measures.finish, measures.all_rewards, measures.choices
    again = measures.walked_again
    found: dict[str, Any] = {
        "shortest run, steps": finish and finish.steps,
        "shortest run, moves": finish and finish.moves,
        "run with every reward, steps": every and every.steps,
        "steps over ground covered before": None if again is None else f"{again:.0%}",
        "choices on the way": round(sum(choices) / len(choices), 1) if choices else None,
    }
    return found | {
        f"spare {renamed(item, names)}": one.spare for item, one in measures.keys.items()
    }

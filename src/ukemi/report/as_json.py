"""A report as JSON: one description writes it and gives its schema."""

from __future__ import annotations

from operator import attrgetter
from typing import Any, NamedTuple

from ..checks import Answers, Finding, Report
from ..checks.result import Knowing, SearchInfo
from ..findings.finding import Mistake
from ..language.fields.schema import closed
from ..level import LevelError
from ..questions.answers import KINDS
from ..spaces import Route
from .shapes import (
    COUNT,
    TEXT,
    Choice,
    JsonField,
    ListOf,
    MapOf,
    Object,
    Schema,
    Shape,
    Text,
    or_null,
)


class _Said(NamedTuple):
    """The entry of a level that was checked, or that cannot be read."""

    level: str | None
    file: str | None
    answers: Answers | None
    routes: dict[str, Route]
    findings: tuple[Finding, ...]
    search: SearchInfo
    accepted: tuple[Finding, ...] | None = None
    knowing: Knowing | None = None
    campaigns: tuple[str, ...] | None = None
    supposed: tuple[str, ...] | None = None
    without: Report | None = None
    report: Report | None = None


def _said_of(report: Report) -> _Said:
    return _Said(
        report.level.name,
        report.level.file,
        None if report.is_part else report.answers,
        report.routes,
        report.findings,
        report.search,
        report.accepted or None,
        report.knowing,
        report.campaigns or None,
        report.supposed or None,
        report.without,
        report,
    )


def _changes(said: _Said) -> dict[str, Any] | None:
    """What is changed by what is supposed, as `ukemi compare` tells it."""
    if said.without is None or said.report is None:
        return None
    from ..comparing import compare_reports  # loaded where something is supposed
    from ..comparing.forms import comparison_dict

    return comparison_dict(compare_reports(said.without, said.report))


def report_dict(report: Report) -> dict[str, Any]:
    """A report as plain values, ready for :func:`json.dumps`.

    Returns:
        A mapping of the shape that ``ukemi schema report`` describes.
    """
    said: dict[str, Any] = REPORT.write(_said_of(report))
    return said


def unreadable_dict(error: LevelError) -> dict[str, Any]:
    """The errors of a level that cannot be read, in the shape of a report.

    Returns:
        A report without answers, whose findings are the problems.
    """
    findings = tuple(
        Finding(
            problem.code,
            "error",
            problem.text,
            problem.message + (f" (did you mean {problem.near!r}?)" if problem.near else ""),
            place=problem.place,
        )
        for problem in error.problems
    )
    search = SearchInfo(0, False, 0.0)
    said: dict[str, Any] = REPORT.write(_Said(None, error.file, None, {}, findings, search))
    return said


def report_schema() -> Schema:
    """The JSON Schema (draft 2020-12) of what ``ukemi check --format json`` prints.

    Returns:
        The schema: a report for one level, a list of reports for several. A level that cannot be
        read has ``level`` null and no answers; neither has one that was checked as a part of the
        ``campaigns`` that it lists.

    Example:
        >>> report_schema()["$defs"]["report"]["properties"]["ukemi"]
        {'const': 1}
    """
    from ..comparing.forms import comparison_schema

    several = {"type": "array", "items": REPORT.schema, "minItems": 2}
    defs = {"report": REPORT, "route": _ROUTE, "finding": _FINDING}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A Ukemi report, or a list of them",
        "anyOf": [REPORT.schema, several],
        "$defs": {
            **{name: one.whole for name, one in defs.items()},
            "move": {"anyOf": _MOVES},
            "comparison": comparison_schema(),
        },
    }


def message_of(finding: Finding) -> str:
    """Return the message and the reason of a finding in one text."""
    return " ".join(_sentence(part) for part in (finding.message, finding.why) if part)


def _sentence(text: str) -> str:
    return text if text.endswith((".", "!", "?")) else text + "."


# -- the description ------------------------------------------------------------------------------

_YES_NO = Text("yes", "no", "unknown")
_STATUS = Text("required", "optional", "only-when-stuck", "never", "unknown")
_COUNTS: Schema = {"type": "object", "additionalProperties": {"type": "integer", "minimum": 1}}


def _move(do: str, *names: str, spends: bool | None = None) -> Schema:
    text = {"type": "string"}
    properties: Schema = {"do": {"const": do}, **dict.fromkeys(names, text), "by": text}
    if spends is not None:
        properties["with"] = _COUNTS
    return closed(properties, "by", *([] if spends else ["with"]))


_MOVES = [
    _move("walk", "name", "to", spends=False),
    _move("unlock", "name", spends=True),
    _move("take", "item", "in"),
    _move("open", "name", spends=True),
    _move("act", "name"),
    _move("drop", "item", "in"),
    _move("give", "item", "to"),
    _move("finish"),
    _move("finish", "level", "to"),
]
_MOVE = Shape({"$ref": "#/$defs/move"})

_ROUTE = Object(
    JsonField("steps", COUNT, lambda route: route.steps),
    JsonField("moves", ListOf(_MOVE), lambda route: route.whats),
    JsonField("shortest", Shape({"type": "boolean", "description": "Whether that is proven."}),
          lambda route: route.shortest),
    JsonField("at-least", Shape({"type": "integer", "description": "A lower bound on the cost of any such route."}),
          lambda route: None if route.shortest else route.at_least or None, optional=True),
    name="route",
)  # fmt: skip

_RUN: Shape = or_null(
    Object(
        JsonField("steps", COUNT, lambda run: run.steps),
        JsonField("moves", COUNT, lambda run: run.moves),
    )
)

_PACE = Object(
    JsonField("steps", COUNT, lambda point: point.steps),
    JsonField("cost", COUNT, lambda point: point.cost),
    JsonField("opens", ListOf(TEXT), lambda point: list(point.opens)),
    JsonField("gets", MapOf(COUNT), lambda point: point.gets),
    JsonField("rooms", COUNT, lambda point: point.rooms),
    JsonField("things", COUNT, lambda point: point.things),
    JsonField("again", Shape({"type": "boolean"}), lambda point: point.again),
    JsonField("carried", COUNT, lambda point: point.carried),
)  # fmt: skip

_MEASURES = Object(
    JsonField("finish", _RUN, lambda measures: measures.finish),
    JsonField("all-rewards", _RUN, lambda measures: measures.all_rewards),
    JsonField("walked-again", Shape({"type": ["number", "null"], "minimum": 0, "maximum": 1}),
          lambda measures: measures.walked_again),
    JsonField("choices", ListOf(COUNT), lambda measures: measures.choices),
    JsonField("pace", MapOf(ListOf(_PACE)), lambda measures: measures.pace or None, optional=True),
    JsonField("keys", MapOf(Object(
        JsonField("placed", COUNT, lambda key: key.placed),
        JsonField("needed", COUNT, lambda key: key.needed),
        JsonField("spare", COUNT, lambda key: key.spare),
    )), lambda measures: measures.keys),
)  # fmt: skip

_UNKNOWN = Shape({"const": "unknown"})
#: The least and the most of something.
_RANGE = ListOf(COUNT, minItems=2, maxItems=2)


def _or_unknown(shape: Shape) -> Shape:
    return Choice((lambda value: value != "unknown", shape), (lambda _: True, _UNKNOWN))


def _known(value: Any) -> Any:
    return "unknown" if value is None else value


_ANSWERS = Object(
    JsonField("finish", _YES_NO, lambda answers: answers.finish),
    JsonField("stuck", Text("never", "possible", "unknown"), lambda answers: answers.stuck),
    JsonField("all-rewards", _YES_NO, lambda answers: answers.all_rewards),
    JsonField("deadly", _YES_NO, lambda answers: answers.deadly),
    JsonField("rewards", MapOf(Object(
        JsonField("status", _STATUS, lambda reward: reward.status),
        JsonField("missable", _YES_NO, lambda reward: reward.missable),
    )), lambda answers: answers.rewards),
    *(JsonField(kind, MapOf(_STATUS), attrgetter(kind)) for kind in KINDS),
    JsonField("levels", MapOf(Object(
        JsonField("status", _STATUS, lambda level: level.status),
        JsonField("enters", _or_unknown(MapOf(_RANGE)),
              lambda level: _known(level.enters)),
    )), lambda answers: answers.levels or None, optional=True),
    JsonField("order", _or_unknown(ListOf(ListOf(TEXT, minItems=2, maxItems=2))),
          lambda answers: _known(answers.order)),
    JsonField("alternatives", ListOf(Object(
        JsonField("ways", ListOf(ListOf(TEXT)), lambda one: [list(way) for way in one.ways]),
        JsonField("before", ListOf(TEXT), lambda one: list(one.before)),
        JsonField("after", ListOf(TEXT), lambda one: list(one.after)),
    )), lambda answers: None if answers.alternatives is None else list(answers.alternatives), optional=True),
    JsonField("measures", _MEASURES, lambda answers: answers.measures),
)  # fmt: skip

_IN_HAND = MapOf(Object(
    JsonField("steps", or_null(COUNT), lambda room: room.steps),
    JsonField("items", MapOf(_RANGE), lambda room: room.items),
    JsonField("flags", MapOf(Text("on", "on-or-off")),
              lambda room: {flag: "on-or-off" if off else "on" for flag, off in room.flags.items()}),
))  # fmt: skip

_PATH_SCHEMA: Schema = {"type": "array", "items": {"type": ["string", "integer"]}}
_MEND = Shape(
    closed(
        {
            "say": TEXT.schema,
            "file": {
                "type": "string",
                "description": "In a campaign, or for a map in a CSV file: the file that it changes.",
            },
            "warns": ListOf(TEXT).schema,
            "edit": {"type": "array", "items": closed({"path": _PATH_SCHEMA, "value": {}})},
        },
        "file",
        "warns",
    )
)

_ALSO = Choice(
    (lambda one: isinstance(one, Mistake), Object(
        JsonField("mistake", _MOVE, lambda one: one.move),
        JsonField("route", _ROUTE, lambda one: one.route),
    )),
    (lambda _: True, Object(
        JsonField("code", TEXT, lambda one: one.code),
        JsonField("subject", TEXT, lambda one: one.subject),
        JsonField("message", TEXT, lambda one: one.message),
    )),
)  # fmt: skip

_LINE = Shape({"type": "integer", "minimum": 1})

_FINDING = Object(
    JsonField("code", Shape({"type": "string", "pattern": "^[a-z]+(-[a-z]+)*$"}), lambda one: one.code),
    JsonField("severity", Text("error", "warning", "note"), lambda one: one.severity),
    JsonField("subject", TEXT, lambda one: one.subject),
    JsonField("message", TEXT, message_of),
    JsonField("mend", TEXT, lambda one: one.mend or None, optional=True),
    JsonField("mends", ListOf(_MEND),
          lambda one: None if one.mends is None else [mend.as_dict() for mend in one.mends], optional=True),
    JsonField("mends-cut-short", Shape({"const": True}), lambda one: one.mends_cut_short or None, optional=True),
    JsonField("line", _LINE, lambda one: one.place and one.place.line, optional=True),
    JsonField("column", _LINE, lambda one: one.place and one.place.column, optional=True),
    JsonField("file", TEXT, lambda one: (one.place and one.place.file) or None, optional=True),
    JsonField("route", _ROUTE, lambda one: one.route, optional=True),
    JsonField("mistake", _MOVE, lambda one: one.mistake, optional=True),
    JsonField("also", ListOf(_ALSO), lambda one: [*one.also, *one.follows] or None, optional=True),
    name="finding",
)  # fmt: skip

_NOTHING = Shape({"type": "object", "maxProperties": 0})

REPORT = Object(
    JsonField("ukemi", Shape({"const": 1}), lambda _: 1),
    JsonField("level", or_null(TEXT), lambda said: said.level),
    JsonField("file", or_null(TEXT), lambda said: said.file),
    JsonField("answers", Choice((lambda one: one != {}, _ANSWERS), (lambda _: True, _NOTHING)),
          lambda said: {} if said.answers is None else said.answers),
    JsonField("in-hand", _IN_HAND, lambda said: said.answers and said.answers.in_hand, optional=True),
    JsonField("routes", MapOf(_ROUTE), lambda said: said.routes),
    JsonField("findings", ListOf(_FINDING), lambda said: said.findings),
    JsonField("search", Object(
        JsonField("positions", COUNT, lambda search: search.positions),
        JsonField("complete", Shape({"type": "boolean"}), lambda search: search.complete),
        JsonField("seconds", Shape({"type": "number", "minimum": 0}), lambda search: round(search.seconds, 3)),
    ), lambda said: said.search),
    JsonField("accepted", ListOf(_FINDING), lambda said: said.accepted, optional=True),
    JsonField("knowing", Object(
        JsonField("flags", ListOf(TEXT), lambda knowing: knowing.flags),
        JsonField("passes-by", ListOf(TEXT), lambda knowing: knowing.passes_by),
        JsonField("report", Shape({"$ref": "#/$defs/report"}), lambda knowing: report_dict(knowing.report)),
    ), lambda said: said.knowing, optional=True),
    JsonField("campaigns", Shape({
        "type": "array", "items": {"type": "string"},
        "description": "The campaigns that name the level. If there are no answers, it was checked as a part of them.",
    }), lambda said: said.campaigns and list(said.campaigns), optional=True),
    JsonField("supposed", ListOf(TEXT), lambda said: said.supposed and list(said.supposed), optional=True),
    JsonField("changes", Shape({"$ref": "#/$defs/comparison"}), _changes, optional=True),
    name="report",
)  # fmt: skip

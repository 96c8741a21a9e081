"""A report for people to read."""

from __future__ import annotations

import shlex
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from ..checks import Answer, Finding, Mistake, Report
from ..checks.result import Knowing
from ..checks.route_words import route_words
from ..level import Level, LevelError
from ..level.names import in_list
from ..level.visible import as_line
from ..questions.answers import InHand
from ..questions.backbone import backbone
from ..questions.pace import longest_without
from ..questions.transitive_reduction import Pairs
from ..rules.words import move_words, some
from ..spaces import Route

GOOD, BAD, UNSURE = "bold green", "bold red", "bold yellow"


#: A run is said to drag where so many steps bring nothing new.
A_LONG_STRETCH = 10


class Line(NamedTuple):
    """One line of a report: a label, its text, and its highlight."""

    label: str
    text: str
    style: str = ""
    indent: int = 0


def report_lines(
    report: Report, full: bool = False, quiet: bool = False, elsewhere: Collection[Finding] = ()
) -> Iterator[Line]:
    """The lines of a report, the verdict first.

    Args:
        full: Whether long routes are listed whole, and findings that say the same of different things each.
        quiet: Whether only a line of verdict and the errors are wanted.
        elsewhere: Findings of a campaign that are listed with its levels.

    Yields:
        The lines.
    """
    file = f" ({report.level.file})" if report.level.file else ""
    if quiet:
        yield Line("", f"{report.level.name}{file}: {verdict_words(report)}", "bold")
    else:
        yield Line("", f"{report.level.name}{file}", "bold")
        yield from verdict_lines(report)
        yield from _supposed_lines(report)
    findings = [one for one in report.findings if not quiet or one.severity == "error"]
    listed = [one for one in findings if one not in elsewhere]
    for finding, *others in [[one] for one in listed] if full else _alike(listed):
        yield Line("", "")
        yield from finding_lines(finding, report.level, full)
        if others:
            words = in_list([f"{one.subject} ({_where(one, report.level)})" for one in others])
            yield Line("Likewise", words, "", 2)
    if len(listed) < len(findings):
        yield Line("", "")
        count = counted(len(findings) - len(listed), "more finding")
        yield Line("", f"{count}, listed with the levels of this campaign")
    if quiet or report.is_part:
        return
    for finding in report.accepted if full else ():
        yield Line("", "")
        yield Line(f"accepted {finding.code}", finding.subject, "bold")
        yield Line("", finding.message, "", 2)
    yield Line("", "")
    source = report.level.file
    mendable = any(one.mends is None and one.severity == "error" for one in report.findings)
    if source is not None and mendable and report.without is None:
        yield Line("To find changes that mend it", f"ukemi mend {shlex.quote(source)}")
    yield from run_lines(report, full)
    if report.knowing is not None:
        yield from _knowing(report.knowing, full)


def _alike(findings: Iterable[Finding]) -> list[list[Finding]]:
    """Findings that say the same of different things, with the same route, each with the others."""
    found: dict[tuple[object, ...], list[Finding]] = {}
    for number, one in enumerate(findings):
        said = [f"{text}".replace(one.subject, "\0") for text in (one.message, one.why, one.mend)]
        route = None if one.route is None else one.route.moves
        alone = number if one.mends or one.follows or one.also else None
        found.setdefault((one.severity, one.code, *said, route, alone), []).append(one)
    return [*found.values()]


def _where(finding: Finding, level: Level) -> str:
    """The file, line and column of a finding."""
    where = level.file or ""
    if finding.place is not None:
        where = (finding.place.file or where) + f":{finding.place.line}:{finding.place.column}"
    return where.lstrip(":")


def _supposed_lines(report: Report) -> Iterator[Line]:
    """What is supposed of the level, and what that changes."""
    if report.without is None:
        return
    from ..comparing import compare_reports  # loaded where something is supposed
    from ..comparing.forms import comparison_lines

    yield Line("Supposed", "; ".join(report.supposed), "bold", 2)
    for line in comparison_lines(compare_reports(report.without, report)):
        yield Line("", line, "", 2)


def verdict_words(report: Report) -> str:
    """The verdict on a level in a few words.

    Returns:
        Words such as ``can be finished, players never get stuck``.
    """
    if report.is_part:
        return f"part of {in_list(report.campaigns)}"
    finish = {
        Answer.YES: "can be finished",
        Answer.NO: "cannot be finished",
        Answer.UNKNOWN: "finishing is undecided",
    }
    stuck = {
        Answer.NEVER: "players never get stuck",
        Answer.POSSIBLE: "can get stuck",
        Answer.UNKNOWN: "getting stuck is undecided",
    }
    answers = report.answers
    if answers.finish == Answer.NO:
        return finish[Answer.NO]
    return f"{finish[answers.finish]}, {stuck[answers.stuck]}"


def verdict_lines(report: Report) -> Iterator[Line]:
    """The lines that say what was found, in short."""
    names = in_list(report.campaigns)
    if report.is_part:
        yield Line("Part of", f"{names}, and checked with what the player brings in", "", 2)
        return
    answers = report.answers
    finish = {
        Answer.YES: ("yes", GOOD),
        Answer.NO: ("no", BAD),
        Answer.UNKNOWN: ("undecided", UNSURE),
    }[answers.finish]
    steps = ""
    if "finish" in report.routes:
        most = "" if report.routes["finish"].shortest else "at most "
        steps = f", in {most}{counted(report.routes['finish'].steps, 'step')}"
    yield Line("Can be finished", finish[0] + steps, finish[1], 2)
    mistakes = len(report.mistakes)
    all_known = report.search.complete or (report.quick and report.search.all_seen)
    least = "" if all_known else "at least "
    by = f", by {least}{counted(mistakes, 'mistake')}" if mistakes else ""
    by = ", from the start on" if answers.finish == Answer.NO else by
    stuck = {
        Answer.NEVER: ("never", GOOD),
        Answer.POSSIBLE: (f"yes{by}", BAD),
        Answer.UNKNOWN: ("undecided", UNSURE),
    }[answers.stuck]
    yield Line("Can get stuck", *stuck, 2)
    yield from _levels(report)
    yield from _rewards(report)
    falls = any(room.deadly for room in report.level.rooms.values())
    if falls or any(item.vital for item in report.level.items.values()):
        dies = {Answer.YES: ("yes", UNSURE), Answer.NO: ("no", GOOD)}
        yield Line("Can die", *dies.get(answers.deadly, ("undecided", UNSURE)), 2)
    search = report.search
    extent = "not the whole level: the search was cut short"
    if report.quick and search.all_seen:
        extent = "the whole level, but not every question was asked (--quick)"
    elif report.quick:
        extent = "not every question was asked (--quick)"
    elif search.complete:
        extent = "the whole level" if search.all_seen else "which decide every question"
    yield Line("Searched", f"{counted(search.positions, 'position')}, {extent}", "", 2)
    if report.campaigns:
        words = f"this level is part of {names}; checked alone, the player brings nothing in"
        yield Line("Note", words, "", 2)


def _levels(report: Report) -> Iterator[Line]:
    """The levels of a campaign: which are entered, and with what."""
    for name, one in report.answers.levels.items():
        words = str(one.status)
        if one.enters:
            some = [_between(item, *range_) for item, range_ in one.enters.items() if range_[1]]
            words += f"; entered with {', '.join(some) or 'nothing'}"
        yield Line(f"Level {name}", words, "", 2)


def _between(item: str, least: int, most: int) -> str:
    if least == most:
        return item if most == 1 else f"{most} {item}"
    return f"{least} to {most} {item}"


def _rewards(report: Report) -> Iterator[Line]:
    rewards = report.answers.rewards
    if not rewards:
        return
    every = report.answers.all_rewards == Answer.YES
    in_some = (Answer.REQUIRED, Answer.OPTIONAL)
    had = [one for one in rewards.values() if every or one.status in in_some]
    words = f"a player who still finishes can collect {len(had)} of {len(rewards)}"
    if len(rewards) > 1:
        words += {
            Answer.YES: ", all in one run",
            Answer.NO: ", not all in one run",
            Answer.UNKNOWN: ", whether all in one run is undecided",
        }[report.answers.all_rewards]
    missed = sum(one.missable == Answer.YES for one in had)
    unsure = sum(not one.status.proven for one in rewards.values() if not every)
    open_ = sum(not one.missable.proven for one in had)
    words += f"; {missed} can be missed" if missed else ""
    words += f"; {unsure} undecided" if unsure else ""
    words += f"; whether {open_} can be missed is undecided" if open_ else ""
    good = every and not missed and not open_
    yield Line("Rewards", words, GOOD if good else UNSURE, 2)


def run_lines(report: Report, full: bool) -> Iterator[Line]:
    """The lines on the shortest runs and the order of things; long routes are whole if ``full``."""
    measures = report.answers.measures
    if "finish" in report.routes:
        route = report.routes["finish"]
        label = "Shortest run" if report.routes["finish"].shortest else "A finishing run"
        yield Line(
            label, f"{counted(route.steps, 'step')}: {route_words(route, report.level, full)}"
        )
    if measures.all_rewards and measures.finish and report.answers.rewards:
        more = measures.all_rewards.steps - measures.finish.steps
        words = f"{counted(measures.all_rewards.steps, 'step')}, {more} more than the shortest"
        yield Line("With every reward", words)
    if measures.walked_again:
        share = f"{measures.walked_again:.0%} of the steps go over ground already covered"
        yield Line("Backtracking", share)
    stretch = longest_without(measures.pace.get("finish", ()))
    if stretch is not None and stretch[0] >= A_LONG_STRETCH:
        words = f"{stretch[0]} steps with nothing taken, opened or done, from step {stretch[1]} on"
        yield Line("Longest stretch", words)
    order = backbone(report.answers)
    if order:
        yield Line("Critical path", order_words(order))


def order_words(order: Pairs) -> str:
    """Pairs of what comes before what, with chains of pairs joined.

    Example:
        >>> order_words((("a", "b"), ("b", "c"), ("a", "d")))
        'a, then b, then c; a, then d'
    """
    after: dict[str, list[str]] = {}
    inner: dict[str, int] = {}
    for earlier, later in order:
        after.setdefault(earlier, []).append(later)
        inner[later] = inner.get(later, 0) + 1
    chains = []
    for earlier, laters in after.items():
        if len(laters) == 1 and inner.get(earlier) == 1 and _goes_on(order, earlier):
            continue  # listed as a part of the chain that leads to it
        for later in laters:
            chain = [earlier, later]
            while len(after.get(chain[-1], [])) == 1 and inner[chain[-1]] == 1:
                chain.append(after[chain[-1]][0])
            chains.append(", then ".join(chain))
    return "; ".join(chains)


def _goes_on(order: Pairs, name: str) -> bool:
    return any(later == name for _, later in order)


def table_lines(report: Report) -> Iterator[Line]:
    """One line for each thing of a level: what runs do about it.

    Yields:
        The lines: its kind, its name, its status, and where it can be missed.
    """
    answers = report.answers
    kinds = {
        "door": answers.doors,
        "chest": answers.chests,
        "act": answers.acts,
        "room": answers.rooms,
        "event": answers.events,
        "item": {name: one for name, one in answers.items.items() if name not in answers.rewards},
        "reward": {name: one.status for name, one in answers.rewards.items()},
    }
    rows = [(kind, name, one) for kind, some_ in kinds.items() for name, one in some_.items()]
    wide = max((len(name) for _, name, _ in rows), default=0)
    yield from report_lines(report, quiet=True)
    wide = max([wide, *(len(area) for area in report.level.areas)])
    for area in report.level.areas:
        yield Line("", f"{'area':<6}  {area:<{wide}}  {area_words(report, area)}", "", 2)
    for kind, name, status in rows:
        words = str(status).replace("-", " ")
        if kind == "reward":
            words += {
                Answer.YES: ", can be missed",
                Answer.NO: "",
                Answer.UNKNOWN: ", whether it can be missed is undecided",
            }[answers.rewards[name].missable]
        if kind == "room" and answers.in_hand and name in answers.in_hand:
            words += f"  {in_hand_words(answers.in_hand[name])}"
        yield Line(
            "", f"{kind:<6}  {name:<{wide}}  {words}", BAD if status == Answer.NEVER else "", 2
        )


def area_words(report: Report, area: str) -> str:
    """Return, in words, how large an area is, how much of it every run enters, and from which step on.

    Example:
        >>> import ukemi
        >>> level = ukemi.loads("{start: quay, goal: mill, rooms: [quay, race, mill], areas: {shore: [quay, race]},"
        ...                     " passages: [quay <-> mill, quay <-> race]}")
        >>> area_words(ukemi.check(level), "shore")
        '2 rooms, 1 required; from 0 steps on; 0 doors and 0 rewards'
    """
    level, answers = report.level, report.answers
    rooms = [room for room in level.areas[area] if room in level.rooms]
    statuses = [answers.rooms.get(room) for room in rooms]
    words = [f"{counted(len(rooms), 'room')}, {statuses.count(Answer.REQUIRED)} required"]
    if unsure := statuses.count(Answer.UNKNOWN):
        words[0] += f", {unsure} undecided"
    steps = [one.steps for room in rooms if (one := (answers.in_hand or {}).get(room)) is not None]
    if steps and None not in steps:
        words.append(f"from {counted(min(one for one in steps if one is not None), 'step')} on")
    doors = {door.thing for door, _ in level.doors() if {*door.ends} & {*rooms}}
    rewards = sum(name.rpartition("/")[0] in rooms for name in answers.rewards)
    return "; ".join([*words, f"{counted(len(doors), 'door')} and {counted(rewards, 'reward')}"])


def in_hand_words(room: InHand) -> str:
    """Return, in words, in how few steps a room is entered, and what can be in hand there.

    Example:
        >>> in_hand_words(InHand(3, {"rope": (0, 2), "oak-key": (1, 1)}, {"low-water": True}))
        'from 3 steps on; with 0 to 2 rope, 1 oak-key; low-water on or off'
    """
    words = [] if room.steps is None else [f"from {counted(room.steps, 'step')} on"]
    carried = [
        f"{least} {item}" if least == most else f"{least} to {most} {item}"
        for item, (least, most) in room.items.items()
    ]
    words += [f"with {', '.join(carried)}"] if carried else []
    words += [f"{flag} on{' or off' if off else ''}" for flag, off in room.flags.items()]
    return "; ".join(words)


def _knowing(knowing: Knowing, full: bool) -> Iterator[Line]:
    yield Line("", "")
    flags = in_list(knowing.flags)
    yield Line("", f"For a player who knows {flags} from before", "bold")
    report = knowing.report
    yield from verdict_lines(report)
    passed = in_list(knowing.passes_by) if knowing.passes_by else "nothing that others must do"
    yield Line("Can pass by", passed, "", 2)
    for finding in report.findings:
        if finding.severity == "error":
            yield from finding_lines(finding, report.level, full)


class SummaryRow(NamedTuple):
    """One line of a table of checked levels: the level, and its cells with their styles."""

    level: str
    says: str
    style: str


def summary_row(one: Report | LevelError) -> SummaryRow:
    """Return the row of one level, or of one that cannot be read."""
    if isinstance(one, LevelError):
        says, style = f"{len(one.problems):>6}  {'':>8}  cannot be read", BAD
    else:
        errors = sum(finding.severity == "error" for finding in one.findings)
        warnings = sum(finding.severity == "warning" for finding in one.findings)
        says = f"{errors:>6}  {warnings:>8}  {verdict_words(one)}"
        style = {0: "", 1: BAD, 3: UNSURE}[one.exit_code()]
    return SummaryRow(_short(one), says, style)


def summary_lines(rows: Sequence[SummaryRow]) -> Iterator[Line]:
    """A table of several checked levels, a line each.

    Yields:
        The lines.
    """
    width = max(len(row.level) for row in rows)
    yield Line("", f"{'level':<{width}}  errors  warnings  verdict", "bold")
    for row in rows:
        yield Line("", f"{row.level:<{width}}  {row.says}", row.style)


def _short(one: Report | LevelError) -> str:
    if isinstance(one, LevelError):
        return one.file or "level"
    return one.level.file or one.level.name


def finding_lines(finding: Finding, level: Level, full: bool, mends: bool = True) -> Iterator[Line]:
    """The lines of one finding, readable alone.

    Args:
        full: Whether long routes are listed whole.
        mends: Whether to list the mends.

    Yields:
        The lines.
    """
    style = {"error": "bold red", "warning": "bold yellow", "note": "bold blue"}[finding.severity]
    title = f"{finding.severity} {finding.code}"
    yield Line(title, f"{finding.subject}  {_where(finding, level)}".rstrip(), style)
    yield Line("", finding.message, "", 2)
    if finding.why:
        yield Line("Why", finding.why, "", 2)
    if mends or not finding.mends:
        yield from _mend_lines(finding, full)
    if finding.route is not None and finding.route.moves:
        steps = _steps(finding.route)
        words = f"{steps}: {route_words(finding.route, level, full)}"
        yield Line("Route", words, "", 2)
    if finding.follows:
        yield Line("So also", _follows_words(finding, full), "", 2)
    yield from _also_lines(finding, level, full)


def _also_lines(finding: Finding, level: Level, full: bool) -> Iterator[Line]:
    """The other mistakes of a finding; the same move by several players is listed once."""
    listed = {move_words(finding.mistake or {})}
    of_move: dict[tuple[str, int], list[Mistake]] = {}
    for mistake in finding.also:
        words = move_words(mistake.move)
        if words not in listed:  # else the same, from another side
            listed.add(words)
            of_move.setdefault(_whoever(mistake.move, mistake.route), []).append(mistake)
    first = _whoever(finding.mistake, finding.route) if finding.mistake and finding.route else None
    for kind, same in of_move.items():
        players = [str(one.move["by"]) for one in same if "by" in one.move]
        if kind == first and players:
            yield Line("Also", f"the same move by {in_list(players)}", "", 2)
            continue
        others = f" (or by {in_list(players[1:], 'or')})" if players[1:] else ""
        also = f"`{move_words(same[0].move)}`, {_steps(same[0].route)}{others}: "
        yield Line("Also", also + route_words(same[0].route, level, full), "", 2)


def _whoever(move: Mapping[str, Any], route: Route) -> tuple[str, int]:
    """A move and the steps to it, whichever player makes it."""
    words = move_words({field: value for field, value in move.items() if field != "by"})
    return words, route.steps


#: Return the findings that follow from a finding, in words.
_FOLLOWS = {
    "unconnected": "no way to",
    "never-entered": "never entered",
    "never-opens": "never opens",
    "never-taken": "never taken",
    "never-done": "never done",
}


def _follows_words(finding: Finding, full: bool) -> str:
    """The findings that follow from a finding: each kind with its names."""
    names: dict[str, list[str]] = {}
    for one in finding.follows:
        names.setdefault(_FOLLOWS.get(one.code, one.code), []).append(one.subject)
    most = 1 << 30 if full else 6
    return "; ".join(f"{words}: {some(each, most)}" for words, each in names.items())


def _mend_lines(finding: Finding, full: bool) -> Iterator[Line]:
    """Return the proven mends of a finding; if there are none, the suggestion."""
    for number, mend in enumerate(finding.mends or ()):
        if number == 0 or full:
            warns = f", but then: {in_list(mend.warns)}" if mend.warns else ""
            yield Line("Mend", f"{mend.say} (tried: it helps{warns})", "", 2)
    if finding.mends == ():
        left = (
            "; not every change was tried: `ukemi mend` tries more"
            if finding.mends_cut_short
            else ""
        )
        yield Line("Mend", f"no small change was found that helps{left}", "", 2)
    if not finding.mends and finding.mend:
        yield Line("Perhaps", finding.mend, "", 2)


def _steps(route: Route) -> str:
    unsure = ", perhaps not the fewest"
    if route.at_least > 1:
        unsure = f" (it takes {route.at_least} at least)"
    return counted(route.steps, "step") + ("" if route.shortest else unsure)


def counted(number: int, what: str) -> str:
    """A number of things: ``1 step``, ``2 steps``."""
    return f"{number:,} {what}" + ("" if number == 1 else "s")


def plain_text(lines: Iterable[Line]) -> str:
    """Lines as text without colours, one line each.

    Example:
        >>> print(plain_text([Line("", "Mill", "bold"), Line("Can be finished", "yes", "", 2)]))
        Mill
          Can be finished: yes
    """
    return "\n".join(
        as_line(" " * line.indent + (f"{line.label}: " if line.label else "") + line.text)
        for line in lines
    )

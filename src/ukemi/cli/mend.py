"""``ukemi mend``: list changes to a level that are proven to help, and make one of these changes."""

from __future__ import annotations

import shlex
import sys
from typing import TYPE_CHECKING, Annotated

import typer

from ..checks import Finding, Report, check_level
from ..language import load
from ..language.files.loading import read_text
from ..language.files.replacing import rewrite
from ..level import LevelError
from ..level.names import in_list, nearest
from ..questions.verdict import LOOK_FURTHER
from ..spaces.limits import MAX_POSITIONS, Limits
from .check import MaxPositions, MaxSeconds
from .output import CANNOT_READ, complain, fail, print_line
from .play import Level
from .searching import MaxMemory, clear_line, limits_of, searching

if TYPE_CHECKING:
    from ..mends import Mend

#: How many findings are listed above the mends of a level.
MOST = 5


def mend(
    level: Level,
    code: Annotated[
        str | None, typer.Argument(help="Only findings of this code.", metavar="[CODE]")
    ] = None,
    subject: Annotated[
        str | None,
        typer.Argument(help="Only findings about this, such as a door.", metavar="[SUBJECT]"),
    ] = None,
    apply: Annotated[
        int | None,
        typer.Option("--apply", help="Make the change of this number.", min=1, metavar="N"),
    ] = None,
    tries: Annotated[
        int | None,
        typer.Option(
            help="The number of changes to check for each finding; by default 40.",
            min=1,
            metavar="N",
        ),
    ] = None,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
) -> None:
    """Look for small changes that mend a level: each is made on a copy and checked again.

    Without a code: changes with which errors are gone or, if there is no error, warnings. With a code:
    changes with which each such finding is gone. The likeliest mistake comes first.

    Exit code: 0 each finding can be mended so, or there is none; 1 one cannot; 2 the level or the
    call cannot be read; 3 not every change was tried, or something is undecided.
    """
    from ..mends import MOST_CHECKED, add_mends  # loaded by this command alone

    limits = limits_of(max_positions, max_seconds, max_memory)
    listed: _Listed | None = None
    with searching(limits) as watched:
        try:
            loaded = load(level)
            report = check_level(loaded, watched)
        except LevelError as error:
            listed = _mend_reading(error, level, apply, watched)
        else:
            if code is None and tries is None:
                listed = _mend_level(report, apply, watched)
            elif chosen := _chosen(report, code, subject):
                report = add_mends(report, chosen, watched, tries or MOST_CHECKED)
    if listed is not None:
        listed.make(apply)
        raise typer.Exit(0 if apply is not None else listed.code)
    chosen = [one for one in report.findings if one.mends is not None]
    if apply is not None:
        _make([mend for finding in chosen for mend in finding.mends or ()], apply)
        return
    _print(report, chosen, tries or MOST_CHECKED, [word for word in (code, subject) if word])
    if any(one.mends_cut_short and not one.mends for one in chosen):
        raise typer.Exit(3)
    if any(not one.mends for one in chosen):
        raise typer.Exit(1)
    raise typer.Exit(3 if report.with_code("undecided") else 0)


class _Listed:
    """The mends of a level, listed as they are found.

    Args:
        file: The file that is mended.
        left: What to say before the errors that are left.

    Attributes:
        code: The exit code if none is made.
    """

    def __init__(self, file: str, left: str) -> None:
        self._file, self._left = file, left
        self._mends: list[Mend] = []
        self.code = 0

    def keep(self, mend: Mend) -> None:
        """Keep one more without listing it."""
        self._mends.append(mend)

    def list(self, mend: Mend) -> None:
        """List one more."""
        clear_line()
        if not self._mends:
            print_line()
        self.keep(mend)
        rest = f" ({self._left}: {in_list(mend.left)})" if mend.left else ""
        _list_mend(len(self._mends), mend, rest, self._file)
        sys.stdout.flush()

    def make(self, number: int | None) -> None:
        """Make the mend of a number. Without one, say how to make one; at a terminal, ask which."""
        if number is not None:
            _make(self._mends, number)
        elif self._mends:
            print_line()
            print_line(
                "Each was tried on a copy: with it, nothing as grave is new. The likeliest comes first."
            )
            print_line(
                f"Make one of them: {shlex.join(['ukemi', 'mend', self._file])} --apply NUMBER"
            )
            if sys.stdin.isatty() and sys.stdout.isatty():
                wanted = typer.prompt(
                    "Make which one? (Enter: none)", default="", show_default=False
                )
                if wanted.strip().isdecimal() and int(wanted):
                    _make(self._mends, int(wanted))


def _mend_level(report: Report, apply: int | None, limits: Limits) -> _Listed:
    """List the mends of a level; only find them up to the one that is to be made, if one is."""
    from ..mends import mends_of_report

    file = str(report.level.file)
    listed = _Listed(file, "then it still reports")
    if apply is not None:
        mends_of_report(report, limits, apply, listed.keep)
        return listed
    unsure = report.with_code("undecided")
    grave = _chosen(report, None, None)
    clear_line()
    if not grave:
        said = "nothing was found" if unsure else "nothing to mend: no error and no warning"
        print_line(f"{report.level.name}: {said}")
    for finding in grave[:MOST]:
        print_line(f"{finding.severity} {finding.code}: {finding.subject}")
        print_line(f"  {finding.message}")
    if len(grave) > MOST:
        print_line(f"  and {len(grave) - MOST} more (ukemi check lists them)")
    for finding in unsure[:MOST]:
        print_line(f"  {finding.message}")
    if unsure:
        print_line(f"To settle it, {LOOK_FURTHER}.")
    found = mends_of_report(report, limits, on_mend=listed.list)
    clear_line()
    if grave and not found.mends:
        how = "none of them helps" if found.all_tried else "not every change was tried"
        print_line(
            f"  No small change was found that mends it: {how}. With its code, others are tried:"
        )
        print_line(f"  {shlex.join(['ukemi', 'mend', file, grave[0].code])}")
        listed.code = 1 if found.all_tried else 3
    elif unsure:
        listed.code = 3
    return listed


def _mend_reading(error: LevelError, file: str, apply: int | None, limits: Limits) -> _Listed:
    """List the changes that make a level readable, up to the chosen one, if one is chosen."""
    from ..mends import mends_of_text

    text = read_text(file)
    complain(*error.lines())
    listed = _Listed(file, "it can then be read; a check then finds")
    listed.code = CANNOT_READ
    if apply is not None:
        mends_of_text(text, error, limits, apply, listed.keep)
        return listed
    found = mends_of_text(text, error, limits, on_mend=listed.list)
    if not found.mends:
        tried = "" if found.all_tried else ": not every change was tried"
        print_line(f"No small change was found with which it can be read{tried}.")
    return listed


def _list_mend(number: int, mend: Mend, rest: str, file: str) -> None:
    print_line(f"  {number}. {mend.say}{rest}")
    for line in ([] if mend.file == file else [mend.file]) + mend.diff:
        print_line(f"       {line}")


def _make(mends: list[Mend], number: int) -> None:
    """Make a mend, if its file is as it was."""
    if number > len(mends):
        many = f"there are {len(mends)}" if len(mends) > 1 else f"there is {len(mends) or 'none'}"
        fail(f"--apply {number}: no mend has this number; {many}")
    one = mends[number - 1]
    for file, text in one.texts.items():
        rewrite(file, one.before[file], text)
    print_line(f"{one.say}:")
    for line in one.diff:
        print_line(f"  {line}")
    print_line(f"wrote {in_list([*one.texts])}")


def _chosen(report: Report, code: str | None, subject: str | None) -> list[Finding]:
    """The findings that are to be mended."""
    from ..mends import gravest

    found = [one for one in report.findings if one.code != "undecided"]
    if code is None:
        return gravest(report)
    with_code = [one for one in found if one.code == code]
    if not with_code:
        near = nearest(code, sorted({one.code for one in found}))
        said = "the level has no such finding"
        if report.with_code("undecided"):
            said = "no such finding was found, but some questions are undecided: the search was cut short"
        fail(f"{code}: {said}" + (f"; did you mean {near!r}?" if near else ""))
    about = [one for one in with_code if subject in (None, one.subject)]
    if not about:
        names = sorted({one.subject for one in with_code})
        near = nearest(str(subject), names)
        hint = f"did you mean {near!r}?" if near else f"there is {', '.join(names)}"
        fail(f"{subject}: the level has no {code} about that; {hint}")
    return about


def _print(report: Report, chosen: list[Finding], tries: int, about: list[str]) -> None:
    name = report.level.name
    unsure = report.with_code("undecided")
    if not chosen:
        said = "nothing was found" if unsure else "nothing to mend: no error and no warning"
        print_line(f"{name}: {said}")
    number = 0
    for position, finding in enumerate(chosen):
        if position:
            print_line()
        print_line(f"{finding.severity} {finding.code}: {finding.subject}")
        print_line(f"  {finding.message}")
        for mend in finding.mends or ():
            number += 1
            warns = f" (but then: {in_list(mend.warns)})" if mend.warns else ""
            _list_mend(number, mend, warns, str(report.level.file))
        if not finding.mends:
            more = f"not every change was tried (--tries allowed {tries})"
            left = more if finding.mends_cut_short else "none of them helps"
            print_line(f"  No small change was found that mends it: {left}.")
    if number:
        print_line()
        print_line(
            "Each was tried on a copy: with it the finding is gone, and nothing as grave is new."
        )
        again = shlex.join(["ukemi", "mend", str(report.level.file), *about])
        print_line(f"Make one of them: {again} --apply NUMBER")
    for finding in unsure[:MOST]:
        print_line(f"  {finding.message}")
    if len(unsure) > MOST:
        print_line(f"  {len(unsure) - MOST} more questions are undecided.")
    if unsure:
        print_line(f"To settle it, {LOOK_FURTHER}.")

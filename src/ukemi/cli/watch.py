"""``ukemi watch``: levels checked again at each save."""

from __future__ import annotations

import asyncio
import signal
import sys
import time
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..bulk.checking import Asking, Checked, check_file
from ..bulk.memory import memory_kept
from ..checks import Report
from ..language.files.replacing import rewrite
from ..level import LevelError
from ..level.joined import Joined
from ..report import report_lines
from ..report.on_console import print_lines
from ..spaces import MAX_POSITIONS, Limits
from ..spaces.limits import Deadline
from ..values import dataclass, field, replace
from .check import Levels, MaxPositions
from .level_files import level_files
from .output import complain, fail, print_line
from .searching import MaxMemory, answer_words, limits_of

if TYPE_CHECKING:
    from ..report.live import LivePage
    from ..report.page import AnswerToCome

#: How long to wait for files that are saved together, and how often to check them, in milliseconds.
TOGETHER, STEP = 60, 20

#: A page waits so long for an answer, in seconds, before it is shown without.
ANSWERED_AT_ONCE = 0.9

#: By how much the time of a file may lag behind the clock, in nanoseconds.
COARSE = 20_000_000


def watch(
    levels: Levels,
    page: Annotated[
        bool, typer.Option("--page", help="Serve the report in a browser on this machine, too.")
    ] = False,
    port: Annotated[
        int, typer.Option(help="The port to serve it at; a free one if not said.", min=0, max=65535)
    ] = 0,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: Annotated[
        float | None, typer.Option(help="The time limit of the search.", min=0, metavar="SECONDS")
    ] = 60.0,
    max_memory: MaxMemory = None,
) -> None:
    """Check levels again whenever they are saved, and print only the changes. Ctrl-C ends it."""
    try:
        import watchfiles  # noqa: F401

        if page:
            from ..report import live  # noqa: F401
    except ImportError:
        fail("this needs more packages: pip install 'ukemi[live]'")
    limits = limits_of(max_positions, max_seconds, max_memory)
    files = level_files(levels)
    for file in files:
        if not Path(file).parent.is_dir():
            fail(f"{file}: there is no folder {Path(file).parent} to watch")
    watching = _Watching(files, limits, page, port)
    try:
        asyncio.run(watching.run())
    except OSError as error:
        fail(f"--page: {error.strerror or error}")


def _saved_since(file: str, began: int) -> bool:
    """Whether a file was saved since a time in nanoseconds, or is gone."""
    try:
        return Path(file).stat().st_mtime_ns >= began
    except OSError:
        return True


@dataclass
class _Watching:
    """Levels that are watched, and what is known of each.

    Attributes:
        files: The level files.
        limits: How far each check may go.
        page: Whether to serve the report.
        port: Where.
    """

    files: list[str]
    limits: Limits
    page: bool
    port: int
    last: dict[str, Report] = field(default_factory=dict)
    wrong: dict[str, str] = field(default_factory=dict)
    live: LivePage | None = None
    _deadline: Deadline = field(default_factory=Deadline)
    _asked: dict[tuple[str, tuple[str, ...]], _Asked] = field(default_factory=dict)
    _maps: dict[str, str] = field(default_factory=dict)

    async def run(self) -> None:
        """Check all, then again whatever is saved, until Ctrl-C."""
        ended = asyncio.Event()
        loop = asyncio.get_running_loop()
        for number in (signal.SIGINT, signal.SIGTERM):
            loop.add_signal_handler(number, partial(self._end, ended))
        began = time.time_ns() - COARSE
        await self._check_all(dict.fromkeys(self.files))
        tasks = []
        if self.page and not ended.is_set():
            from ..report.live import LivePage

            self.live = LivePage(self._page, self._write, self.port)
            tasks.append(asyncio.ensure_future(self.live.serve()))
            print_line(f"The report: {self.live.address}")
        if not ended.is_set():
            print_line("Watching; Ctrl-C ends it.")
            sys.stdout.flush()
            await self._follow(ended, began)
        if self.live is not None:
            self._forget()
            self.live.stop()
        await asyncio.gather(*tasks)

    def _end(self, ended: asyncio.Event) -> None:
        ended.set()
        self._deadline.stop()

    async def _follow(self, ended: asyncio.Event, began: int) -> None:
        """Check again whatever is saved.

        Args:
            ended: Set if the user ends the command.
            began: When the first check began, in nanoseconds.
        """
        from watchfiles import awatch

        folders = {str(Path(one).parent) for file in self.files for one in self._made_of(file)}
        working: asyncio.Task[None] | None = None
        waiting: dict[str, None] = {}
        changes = awatch(
            *folders,
            debounce=TOGETHER,
            step=STEP,
            rust_timeout=500,
            yield_on_timeout=True,
            stop_event=ended,
            recursive=False,
        )
        unseen = True
        async for some in changes:
            changed = {str(Path(path).resolve()) for _, path in some}
            if unseen:  # what was saved during the first check, before anything was watched
                changed |= {
                    one
                    for file in self.files
                    for one in self._made_of(file)
                    if _saved_since(one, began)
                }
                unseen = False
            meant = [file for file in self.files if self._made_of(file) & changed]
            if not meant:
                continue
            if working is not None and not working.done():
                self._deadline.stop()  # what is being checked is old already
                await working
            else:
                waiting.clear()
            waiting |= dict.fromkeys(meant)
            self._deadline = Deadline()
            working = asyncio.ensure_future(self._check_all(waiting))
        if working is not None:
            await working

    def _made_of(self, file: str) -> set[str]:
        """The files that a level, or a campaign, is read from."""
        found = {str(Path(file).resolve())}
        report = self.last.get(file)
        if report is not None:
            level = report.level
            folder = Path(file).parent
            texts = level.texts if isinstance(level, Joined) else {}
            found |= {str(Path(one).resolve()) for one in texts}
            maps = [floor.csv for floor in level.maps.values() if floor.csv]
            found |= {str((folder / one).resolve()) for one in maps}
        return found

    async def _check_all(self, files: dict[str, None]) -> None:
        for file in list(files):
            if await self._check(file):
                files.pop(file, None)
            sys.stdout.flush()  # whoever reads it from a pipe wants it now
        if self.live is not None:
            self._forget()
            await self.live.renew()

    async def _check(self, file: str) -> bool:
        """Check a level and print the changes; return whether there was time to."""
        deadline = self._deadline
        limits = Limits(
            self.limits.positions,
            self.limits.seconds,
            self.limits.memory,
            Deadline(self.limits.seconds, deadline),
        )
        assert limits.deadline is not None
        with memory_kept(limits.memory, limits.deadline):
            asking = Asking(mends=self.live is not None)
            checked = await asyncio.to_thread(check_file, file, limits, asking)
        if deadline.over:
            return False
        self._list(file, checked)
        return True

    def _list(self, file: str, checked: Checked) -> None:
        if isinstance(checked, LevelError):
            said = str(checked)
            if self.wrong.get(file) != said:
                self.wrong[file] = said
                complain(*checked.lines())
            return
        was_wrong = self.wrong.pop(file, None) is not None
        before = self.last.get(file)
        self.last[file] = checked
        self._maps.pop(file, None)
        if before is None:
            print_lines(report_lines(checked, quiet=False))
            print_line()
            return
        from ..checks.route_words import route_words
        from ..comparing import compare_reports
        from ..comparing.forms import comparison_lines

        comparison = compare_reports(before, checked)
        changed = comparison.verdict or comparison.changes or comparison.gone or comparison.come
        if changed or was_wrong:
            print_line(
                f"{checked.level.name} ({file})" + (" can be read again" if was_wrong else "")
            )
            for line in comparison_lines(comparison):
                print_line(line)
            for finding in comparison.come:
                if finding.route is not None:
                    print_line(f"  Route: {route_words(finding.route, checked.level)}")
            print_line()

    # -- the page -----------------------------------------------------------------------------

    async def _page(self, number: int, said: tuple[str, ...]) -> str:
        """The page of the levels, with what is supposed of one of them."""
        files = list(self.last)
        if not said or number >= len(files):
            return await asyncio.to_thread(self._html)
        file = files[number]
        asked = self._asked.get((file, said))
        if asked is None:
            asked = self._asked[file, said] = _Asked(Deadline(self.limits.seconds))
            asked.task = asyncio.ensure_future(self._answer(file, said, asked))
        from ..report.page import AnswerToCome  # which draws, and so is loaded for a page alone

        assert asked.task is not None
        await asyncio.wait({asked.task}, timeout=ANSWERED_AT_ONCE)
        if asked.task.done():
            return await asyncio.to_thread(self._html, number, asked)
        waiting = AnswerToCome(number, said, "; ".join(asked.known))
        return await asyncio.to_thread(self._html, number, None, waiting)

    async def _answer(self, file: str, said: tuple[str, ...], asked: _Asked) -> None:
        """Check a level of which something is supposed, and show on the page what is proven, as it is."""
        loop = asyncio.get_running_loop()

        def proven(name: str, answer: str) -> None:
            words = answer_words(name, answer)
            if words and words not in asked.known:
                asked.known.append(words)
                if asked.late and self.live is not None:
                    asyncio.run_coroutine_threadsafe(self.live.renew(), loop)

        limits = replace(self.limits, deadline=asked.deadline, on_answer=proven)
        asking = Asking(suppose=said)
        with memory_kept(limits.memory, asked.deadline):
            asked.found = await asyncio.to_thread(check_file, self.last[file].level, limits, asking)
        if asked.late and self.live is not None:
            await self.live.renew()

    async def _write(self, number: int, said: tuple[str, ...]) -> str:
        """Write what is supposed of a level into its files; give back what is wrong."""
        from ..supposing import suppose_all

        files = list(self.last)
        if number >= len(files) or not said:
            return "there is nothing to write"
        try:
            found = suppose_all(self.last[files[number]].level, said)
            for file, text in found.texts.items():
                rewrite(file, found.before[file], text)
        except (LevelError, OSError) as error:
            return str(error)
        return ""

    def _forget(self) -> None:
        """Forget what was supposed of levels that have changed, and stop those searches."""
        for one in self._asked.values():
            one.deadline.stop()
        self._asked = {}

    def _html(
        self, number: int = 0, asked: _Asked | None = None, waiting: AnswerToCome | None = None
    ) -> str:
        from ..draw.svg import svg_map
        from ..report.page import html_page

        for file, report in self.last.items():
            if file not in self._maps:  # where rooms go takes a while to find
                self._maps[file] = svg_map(report.level)
        reports, maps = (
            list(self.last.values()),
            dict(enumerate(self._maps[file] for file in self.last)),
        )
        notices = list(self.wrong.values())
        found = asked.found if asked is not None else None
        if asked is not None and isinstance(found, Report):
            reports[number] = found
            asked.map = asked.map or svg_map(found.level)
            maps[number] = asked.map
        elif found is not None:
            notices.append(str(found))
        return html_page(reports, maps, live=True, notices=notices, waiting=waiting)


@dataclass
class _Asked:
    """Something that is supposed of a level.

    Attributes:
        deadline: Ends the search.
        known: What is proven so far, in words.
        found: The report, or what is wrong.
        map: The map of the level then, once it is drawn.
        task: The search.
    """

    deadline: Deadline
    known: list[str] = field(default_factory=list)
    found: Checked | None = None
    map: str = ""
    task: asyncio.Task[None] | None = None
    began: float = field(default_factory=time.monotonic)

    @property
    def late(self) -> bool:
        """Whether the page was shown without the answer."""
        return time.monotonic() - self.began > ANSWERED_AT_ONCE

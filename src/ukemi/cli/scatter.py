"""``ukemi scatter``: place things again at random, each level proven to hold."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..language import load, save
from ..language.files.replacing import PICTURES, must_be_writable, write_file
from ..level import Level
from ..level.names import in_list
from ..spaces import MAX_POSITIONS
from .check import MaxPositions, MaxSeconds, with_progress
from .output import complain, csv_text, fail, print_line
from .searching import MaxMemory, limits_of, searching

if TYPE_CHECKING:
    from ..scattering import Draw, Scattered, Scatterer, Scattering, Wishes


def scatter(
    level: Annotated[
        str, typer.Argument(help="A level file with `scatter` in it.", metavar="LEVEL")
    ],
    output: Annotated[
        Path,
        typer.Option("-o", "--output", help="The folder to write levels to.", metavar="FOLDER"),
    ],
    count: Annotated[
        int, typer.Option("--count", "-n", help="How many levels.", min=1, max=100_000, metavar="N")
    ] = 10,
    seed: Annotated[
        int, typer.Option(help="Where chance begins: the same seed, the same levels.", min=0)
    ] = 1,
    group: Annotated[
        list[str] | None,
        typer.Option(help="Only this group of `scatter`; may be repeated.", metavar="NAME"),
    ] = None,
    shortest: Annotated[
        str | None,
        typer.Option(
            help="Wish: the steps of the shortest finishing run: `30..60`, `30..`, `..60`.",
            metavar="STEPS",
        ),
    ] = None,
    order_at_least: Annotated[
        int | None,
        typer.Option(
            help="Wish: the number of things that must be done one after another.",
            min=1,
            metavar="N",
        ),
    ] = None,
    spread: Annotated[
        int | None,
        typer.Option(
            help="Wish: the steps from each key to the locks that ask for it.",
            min=1,
            metavar="N",
        ),
    ] = None,
    even: Annotated[
        bool, typer.Option("--even", help="Each placement that holds is equally likely; slower.")
    ] = False,
    tries: Annotated[
        int, typer.Option(help="Look at no more placements for one level.", min=1, metavar="N")
    ] = 10_000,
    csv: Annotated[
        Path | None, typer.Option(help="The table of measures too: a .csv file.", metavar="FILE")
    ] = None,
    picture: Annotated[
        Path | None,
        typer.Option(
            help="Also draw where things landed: a .png, .svg or .pdf file.",
            metavar="FILE",
        ),
    ] = None,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
    jobs: Annotated[
        int, typer.Option("-j", "--jobs", help="The number of levels to place at a time.", min=1)
    ] = 1,
) -> None:
    """Place things again at random, such that the level still keeps its promises.

    Each level that is written was checked, and its file reads back as just that level. A second run with the
    same seed goes on where the first one was stopped.

    Exit code: 0 if all the levels you asked for were found, 1 if there are proven to be fewer, 2 if
        the level or the call cannot be read, 3 if fewer were found.
    """
    from ..scattering import Scatterer, Scattering, Wishes  # loaded only to scatter

    wishes = Wishes(_bounds(shortest), order_at_least, spread)
    limits = limits_of(max_positions, max_seconds, max_memory)
    if not output.is_dir() and (output.exists() or output.suffix in _FILES):
        fail(f"-o {output}: this is to be a folder, for a file of each level")
    loaded = load(level)
    with searching(limits) as watched:
        scatterer = Scatterer(loaded, group or (), seed, wishes, even, tries, watched)
        draws = scatterer.draws  # raises at once if it is impossible
        output.mkdir(parents=True, exist_ok=True)
        things = ", ".join(dict.fromkeys(unit.thing for unit in draws.units))
        print_line(f"{loaded.name}: {things} scattered, seed {seed}")
        writer = _LevelWriter(scatterer, output, Path(level), seed, count)
        written = [Path(level), *(output / writer.name_of(n) for n in range(1, count + 1))]
        for table, endings in ((csv, [".csv"]), (picture, PICTURES)):
            if table is not None and table.resolve() in {one.resolve() for one in written}:
                fail(f"{table}: this is one of the levels; choose another name")
            if table is not None:
                must_be_writable(table, endings=endings, inputs=[level])
        scattering = Scattering(scatterer, count)
        found = []
        for one in with_progress(scattering.of(writer.draws(jobs)), count, "Scattering"):
            writer.write(one)
            found.append(one)
    stopped = watched.over
    _list_measures(found, writer.name_of)
    _list_emptied(loaded, found)
    _print_outcome(
        scattering, len(found), count, output, tries, wishes, stopped, scatterer.best_spread
    )
    if csv is not None:
        write_file(csv, _table(found, writer.name_of), endings=[".csv"], inputs=[level])
        print_line(f"wrote {csv}")
    if picture is not None and found:
        _draw(draws.base, found, picture, level)
    if len(found) < count:
        raise typer.Exit(1 if scattering.none_left else 3)


def _bounds(text: str | None) -> tuple[int | None, int | None] | None:
    """The most and the fewest of a wish such as ``30..60``."""
    if text is None:
        return None
    found = re.fullmatch(r"([0-9]{0,6})\.\.([0-9]{0,6})", text.strip())
    if not found or not (found[1] or found[2]):
        fail(
            f"--shortest {text}: write the fewest and the most steps, such as 30..60, 30.. or ..60"
        )
    least, most = (int(found[n]) if found[n] else None for n in (1, 2))
    if least is not None and most is not None and least > most:
        fail(f"--shortest {text}: the fewest steps are more than the most")
    return most, least


#: The endings of a file name; a folder's name has none of them.
_FILES = (".yaml", ".yml", ".json", ".csv", *PICTURES)


class _LevelWriter:
    """Writes levels to a folder, and reads those that an earlier run wrote."""

    def __init__(
        self, scatterer: Scatterer, folder: Path, file: Path, seed: int, count: int
    ) -> None:
        self._scatterer = scatterer
        self._folder = folder
        self._count = count
        digits = max(3, len(str(count)))  # as many for a later run that asks for more
        ending = file.suffix or ".yaml"
        self.name_of: Callable[[int], str] = lambda number: (
            f"{file.stem}-{seed}-{number:0{digits}}{ending}"
        )

    def draws(self, jobs: int) -> Iterator[Draw]:
        """The result for each number; levels that an earlier call wrote are read, not placed again."""
        there = {n for n in range(1, self._count + 1) if self._path(n).exists()}
        missing = [n for n in range(1, self._count + 1) if n not in there]
        drawn: Iterator[Draw] = map(self._scatterer.draw, missing)
        if min(jobs, len(missing)) > 1:
            from ..bulk.processes import draw_parallel

            drawn = draw_parallel(self._scatterer, missing, jobs)
        for number in range(1, self._count + 1):
            yield self._read(number) if number in there else next(drawn)

    def _path(self, number: int) -> Path:
        return self._folder / self.name_of(number)

    def _read(self, number: int) -> Draw:
        from ..scattering import Draw

        path = self._path(number)
        found = self._scatterer.read_back(number, load(path))
        if isinstance(found, str) and self._scatterer.limits.over:
            return Draw(None, 0)
        if isinstance(found, str):
            fail(f"{path}: {found}; it is left as it is: choose another folder, or remove it")
        return Draw(found, 0)

    def write(self, one: Scattered) -> None:
        """Write a level to a new file, from which it reads back as the level that was checked."""
        path = self._path(one.number)
        if not path.exists():
            save(one.level, path)


def _row(one: Scattered) -> dict[str, str]:
    """The measures of a level, as a row of the table."""
    measures = one.report.answers.measures
    finish, every = measures.finish, measures.all_rewards
    choices = measures.choices
    row: dict[str, object] = {
        "steps": finish.steps if finish else None,
        "all-rewards": every.steps if every else None,
        "order": one.order_length,
        "choices": round(sum(choices) / len(choices), 1) if choices else None,
        "again": f"{measures.walked_again:.0%}" if measures.walked_again is not None else None,
        "spare": sum(key.spare for key in measures.keys.values()) if measures.keys else None,
        "spread": one.spread,
        "tried": one.tried or None,
    }
    return {name: "-" if value is None else str(value) for name, value in row.items()}


def _where(one: Scattered) -> str:
    spots: dict[str, list[str]] = {}
    for thing, spot in one.where:
        spots.setdefault(thing, []).append(spot)
    return ", ".join(f"{thing} in {in_list(some)}" for thing, some in spots.items())


def _list_measures(found: list[Scattered], name_of: Callable[[int], str]) -> None:
    if not found:
        return
    rows = [{"file": name_of(one.number), **_row(one), "where": _where(one)} for one in found]
    widths = {name: max(len(row[name]) for row in [*rows, {name: name}]) for name in rows[0]}
    print_line()
    for row in [{name: name for name in widths}, *rows]:
        cells = [
            f"{row[name]:<{width}}" if name in ("file", "where") else f"{row[name]:>{width}}"
            for name, width in widths.items()
        ]
        print_line("  ".join(cells).rstrip())
    print_line()


def _list_emptied(before: Level, found: list[Scattered]) -> None:
    """Print which chests lost all that they hold, and in how many levels."""
    for name, thing in before.things.items():
        held = getattr(thing.what, "holds", None)
        if held:
            empty = sum(not getattr(one.level.things[name].what, "holds", True) for one in found)
            if empty:
                what = in_list([f"{n} {item}" if n > 1 else item for item, n in held.items()])
                print_line(
                    f"{name}, which held {what}, is empty in {empty} of {len(found)} levels."
                )


def _table(found: list[Scattered], name_of: Callable[[int], str]) -> str:
    return csv_text(
        [
            {
                "file": name_of(one.number),
                **{name: None if value == "-" else value for name, value in _row(one).items()},
                "where": _where(one),
            }
            for one in found
        ]
    )


def _print_outcome(
    scattering: Scattering,
    kept: int,
    count: int,
    folder: Path,
    tries: int,
    wishes: Wishes,
    stopped: bool,
    best_spread: Callable[[], int | None],
) -> None:
    if kept:
        levels = "level" if kept == 1 else "levels"
        print_line(f"{kept} {levels} in {folder}, each proven to keep what the level expects.")
        if scattering.tried:
            each = scattering.tried / kept
            print_line(
                f"Placements tried, complete or not: {scattering.tried:,}, {each:.1f} for each."
            )
    if kept >= count:
        return
    more = "more " if kept else ""
    wished = wishes.any
    if stopped:
        complain(
            f"stopped: {count - kept} of {count} are missing; the same call continues from here"
        )
    elif scattering.none_left:
        complain(
            f"There is no {more}placement that {'is as wished and ' if wished else ''}keeps what the "
            "level expects: that is proven."
        )
    else:
        complain(f"No {more}placement was found in {tries:,} tries: there may be one, or not.")
    if wished and not stopped:
        for line in _missed_wishes(scattering, wishes, best_spread):
            complain(line)


def _missed_wishes(
    scattering: Scattering, wishes: Wishes, best_spread: Callable[[], int | None]
) -> Iterator[str]:
    """Yield which wishes failed, and what the best placement achieved."""
    misses = scattering.near_misses
    if misses is not None and misses.count:
        held = "1 placement holds" if misses.count == 1 else f"{misses.count:,} placements hold"
        yield f"{held} without the wish:"
        if misses.failed["shortest"] and misses.steps is not None:
            low, high = misses.steps
            steps = f"{low} steps" if low == high else f"{low} to {high} steps"
            yield f"  --shortest fails {misses.failed['shortest']:,} times: their shortest runs take {steps}"
        if misses.failed["order-at-least"]:
            failed = misses.failed["order-at-least"]
            yield f"  --order-at-least {wishes.order_at_least} fails {failed:,} times: the best has {misses.order}"
    elif wishes.spread is not None and (best := best_spread()) is not None:
        yield f"--spread {wishes.spread} fails: without this wish, the best of some placements has {best}"


def _draw(base: Level, found: list[Scattered], picture: Path, file: str) -> None:
    from ..draw import save as save_picture
    from ..draw.scattered import draw_scattered

    steps = [one.report.answers.measures.finish for one in found]
    figure = draw_scattered(
        base, [one.where for one in found], [run.steps for run in steps if run is not None]
    )
    save_picture(figure, picture, inputs=[file])
    print_line(f"wrote {picture}")

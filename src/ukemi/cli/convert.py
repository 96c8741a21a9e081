"""``ukemi convert``: levels in the forms of other programs."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..checks import Report, check_level
from ..language import load, save
from ..language.files.loading import from_plain, read_text
from ..language.files.replacing import write_file
from ..level import Level, LevelError
from ..spaces import MAX_POSITIONS
from .check import MaxPositions, MaxSeconds
from .output import fail, print_line
from .searching import MaxMemory, limits_of, searching, within

if TYPE_CHECKING:
    from ..exchange.tables import Tables


class Form(StrEnum):
    """A form of a level."""

    LEVEL = "level"
    GRAPHML = "graphml"
    DOT = "dot"
    CSV = "csv"
    PDDL = "pddl"
    PNML = "pnml"


class Shown(StrEnum):
    """What of a level is converted: its rooms, or the order of its things."""

    ROOMS = "rooms"
    ORDER = "order"


_ENDINGS = {
    ".yaml": Form.LEVEL, ".yml": Form.LEVEL, ".json": Form.LEVEL, ".graphml": Form.GRAPHML,
    ".dot": Form.DOT, ".gv": Form.DOT, "": Form.CSV, ".pddl": Form.PDDL,
    ".pnml": Form.PNML,
}  # fmt: skip


def convert(
    source: Annotated[
        Path,
        typer.Argument(
            help="A level file, a GraphML file, or a folder of CSV tables.", metavar="FROM"
        ),
    ],
    target: Annotated[
        Path,
        typer.Argument(
            help="The file to write: .yaml, .json, .graphml, .dot, .pddl, .pnml; a folder for CSV.",
            metavar="TO",
        ),
    ],
    source_form: Annotated[
        Form | None, typer.Option("--from", help="The form of FROM, if its name does not say it.")
    ] = None,
    target_form: Annotated[
        Form | None, typer.Option("--to", help="The form of TO, if its name does not say it.")
    ] = None,
    view: Annotated[
        Shown, typer.Option(help="A graph of the rooms, or of what must come before what.")
    ] = Shown.ROOMS,
    checked: Annotated[
        bool,
        typer.Option(
            "--checked", help="CSV: what a check finds, too, in statuses.csv and measures.csv."
        ),
    ] = False,
    over: Annotated[bool, typer.Option("--over", help="Replace files that are there.")] = False,
    max_positions: MaxPositions = MAX_POSITIONS,
    max_seconds: MaxSeconds = None,
    max_memory: MaxMemory = None,
) -> None:
    """Turn a level into what other programs read, or back.

    GraphML and CSV tables keep all that a level says: out and in again it is the same level. DOT is
        for graph tools, PDDL for planners, and PNML for Petri-net tools. Ukemi cannot read a level
        from these.
    """
    from ..exchange.tables import TableError, tables_of

    come = source_form or _form_of(source, is_source=True)
    become = target_form or _form_of(target, is_source=False)
    if come in (Form.DOT, Form.PDDL, Form.PNML):
        fail(f"{source}: from {come.upper()} no level is read; GraphML says more")
    if view == Shown.ORDER and become not in (Form.GRAPHML, Form.DOT):
        fail(f"--view order makes a graph: let {target} be .graphml or .dot")
    if checked and become != Form.CSV:
        fail(f"--checked makes tables: let {target} be a folder, or say --to csv")
    try:
        with within(max_seconds, f"{source}: reading it"):
            level, assumed = _read(source, come)
        if become == Form.LEVEL:
            _write_level(level, assumed, target, source, over, max_seconds)
        elif become == Form.PDDL:
            _write_problem(level, target, source, over)
        elif become == Form.PNML:
            from ..exchange.petri import petri_net, pnml

            write_file(target, pnml(petri_net(level)), inputs=[source], over=over)
        else:
            tables = tables_of(level)
            if view == Shown.ORDER:
                from ..exchange.graphs import order_tables

                with searching(limits_of(max_positions, max_seconds, max_memory)) as limits:
                    tables = order_tables(check_level(level, limits))
            _write(tables, become, target, source, over)
            if checked:
                with searching(limits_of(max_positions, max_seconds, max_memory)) as limits:
                    _write_checked(check_level(level, limits), target, over)
    except LevelError:
        raise  # it is reported as by every command, and is a ValueError, too
    except TableError as error:
        fail(f"{source}: {error}")
    except ValueError as error:
        fail(str(error))
    for one in assumed:
        print_line(f"assumed: {one}")
    print_line(f"wrote {target}")


def _form_of(path: Path, is_source: bool) -> Form:
    if path.suffix == ".csv":
        fail(f"{path}: the tables are several files: name a folder, without .csv")
    if path.suffix not in _ENDINGS or (is_source and not path.suffix and not path.is_dir()):
        option = "--from" if is_source else "--to"
        fail(f"{path}: the name does not say its form; give it with {option}")
    return _ENDINGS[path.suffix]


def _read(source: Path, form: Form) -> tuple[Level, list[str]]:
    """The level, and what was assumed to make one of what was read."""
    if form == Form.LEVEL:
        return load(source), []
    from ..exchange.csv_folder import read_tables
    from ..exchange.graphs import from_graphml
    from ..exchange.tables import level_of

    tables = from_graphml(read_text(source)) if form == Form.GRAPHML else read_tables(source)
    document = level_of(tables)
    blank = Level(source.stem)
    return from_plain(document, blank), tables.assumed


def _write_level(
    level: Level,
    assumed: list[str],
    target: Path,
    source: Path,
    over: bool,
    max_seconds: float | None,
) -> None:
    from ..language import dumps

    if not assumed:
        if target.exists() and not over:
            fail(f"{target}: a file of that name exists and was left as it is; --over replaces it")
        save(level, target)
        return
    level.file = str(target) if target.suffix == ".json" else None
    with within(max_seconds, f"{target}: laying it out"):
        text = dumps(level)
    if target.suffix != ".json":
        text = "".join(f"# assumed: {one}\n" for one in assumed) + text
    write_file(target, text, inputs=[source], over=over)


def _write(tables: Tables, form: Form, target: Path, source: Path, over: bool) -> None:
    if form == Form.CSV:
        from ..exchange.csv_folder import write_tables

        write_tables(tables, target, over)
        return
    from ..exchange.graphs import dot, graphml

    text = graphml(tables) if form == Form.GRAPHML else dot(tables)
    write_file(target, text, inputs=[source], over=over)


def _write_checked(report: Report, folder: Path, over: bool) -> None:
    """The tables of a check, beside those of its level."""
    from ..exchange.answer_tables import STATUS, checked_tables
    from ..exchange.csv_folder import write_table

    for name, rows in checked_tables(report).items():
        write_table(folder / f"{name}.csv", rows[0] if rows else STATUS, rows, over)


def _write_problem(level: Level, target: Path, source: Path, over: bool) -> None:
    """A problem for planners, and beside it the domain that it is of."""
    from ..exchange.planning import pddl

    domain, problem = pddl(level)
    rules = target.with_name(f"{target.stem}-domain{target.suffix or '.pddl'}")
    write_file(rules, domain, inputs=[source], over=over)
    write_file(target, problem, inputs=[source], over=over)
    print_line(f"wrote {rules}")

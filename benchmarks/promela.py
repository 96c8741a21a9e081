"""A level's rules as a model for SPIN (Promela), to compare searches.

SPIN: G. J. Holzmann, "The model checker SPIN", IEEE Transactions on Software Engineering 23 (1997).
"""

from __future__ import annotations

import re
import subprocess
import tempfile
from collections.abc import Iterable, Mapping
from pathlib import Path
from time import perf_counter
from typing import NamedTuple

from ukemi.rules import END, FINISHED, PLAYING, Rules
from ukemi.rules.expressions import AllOf, AnyOf, AtLeast, Expression, Is, Negated, Within
from ukemi.rules.steps import Add, AddUpTo, Flip, Require, Set, Step, TakeUpTo, When


class Spin(NamedTuple):
    """What SPIN says: whether finishing is possible, the states it stored, and the time it took."""

    finishes: bool
    states: int
    building: float
    running: float


def promela(rules: Rules) -> str:
    """The model of some rules: one process that makes any move that can be made."""
    lines = [
        f"{'byte' if rules.initial[n] < 256 and len(rules.places) < 256 else 'short'} v{n} = {value};"
        for n, value in enumerate(rules.initial)
    ]
    lines += ["active proctype player() {", "  do"]
    for move in rules.moves:
        places = " || ".join(f"v0 == {place}" for place in move.places)
        guard = " && ".join([f"({places})", _expression(move.guard), *_tests(move.steps)])
        done = "; ".join([*_steps(move.steps), *_steps(rules.settling)]) or "skip"
        lines.append(f"  :: atomic {{ v{END} == {PLAYING} && {guard} -> {done} }}")
    lines += ["  od", "}", f"ltl unfinished {{ [] (v{END} != {FINISHED}) }}"]
    return "\n".join(lines) + "\n"


def _tests(steps: Iterable[Step]) -> Iterable[str]:
    """What steps ask for on their way, as it stands before the first of them."""
    added: dict[int, int] = {}
    for step in steps:
        match step:
            case Require(expression):
                yield _expression(expression, added)
            case Add(variable, amount):
                added[variable] = added.get(variable, 0) + amount


def _expression(expression: Expression, added: Mapping[int, int] = {}) -> str:
    def value_of(variable: int) -> str:
        return f"(v{variable} + ({added[variable]}))" if variable in added else f"v{variable}"

    match expression:
        case AtLeast(variable, least):
            return f"({value_of(variable)} >= {least})"
        case Is(variable, value):
            return f"({value_of(variable)} == {value})"
        case Within(terms, limit):
            total = " + ".join(f"{value_of(variable)} * {weight}" for variable, weight in terms)
            return f"({total} <= {limit})"
        case Negated(part):
            return f"!{_expression(part, added)}"
        case AllOf(parts):
            return f"({' && '.join(_expression(one, added) for one in parts) or 'true'})"
        case AnyOf(parts):
            return f"({' || '.join(_expression(one, added) for one in parts) or 'false'})"
    raise TypeError(expression)


def _steps(steps: Iterable[Step]) -> Iterable[str]:
    for step in steps:
        match step:
            case Require():
                pass  # part of the guard
            case Set(variable, value):
                yield f"v{variable} = {value}"
            case Add(variable, amount):
                yield f"v{variable} = v{variable} + ({amount})"
            case AddUpTo(variable, amount, most):
                yield f"v{variable} = (v{variable} + {amount} > {most} -> {most} : v{variable} + {amount})"
            case TakeUpTo(variable, amount):
                yield f"v{variable} = (v{variable} > {amount} -> v{variable} - {amount} : 0)"
            case Flip(variable):
                yield f"v{variable} = 1 - v{variable}"
            case When(expression, inner):
                yield f"if :: {_expression(expression)} -> {'; '.join(_steps(inner))} :: else -> skip fi"
            case _:
                raise TypeError(f"no model for {step!r}")


def run_spin(rules: Rules, seconds: float = 120.0, *, everything: bool) -> Spin | None:
    """Build and run SPIN's verifier.

    Args:
        rules: The rules.
        seconds: The most time for the run.
        everything: Whether to explore all states, instead of looking for a finishing run.

    Returns:
        What it says; ``None`` where it did not end in time, or ran out of memory.
    """
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "level.pml").write_text(promela(rules))
        began = perf_counter()
        ways = ["-DSAFETY"] if everything else []
        try:
            subprocess.run(
                ["spin", "-a", "level.pml"],
                cwd=folder,
                check=True,
                capture_output=True,
                timeout=seconds,
            )
            subprocess.run(
                ["gcc", "-O2", "-DMEMLIM=8000", "-DVECTORSZ=65536", *(["-DNOCLAIM"] if everything else []), *ways,
                 "-o", "pan", "pan.c"],
                cwd=folder, check=True, capture_output=True, timeout=seconds,
            )  # fmt: skip
            built = perf_counter()
            done = subprocess.run(
                ["./pan", "-m10000000", *([] if everything else ["-a"]), "-E"],
                cwd=folder, check=False, capture_output=True, text=True, timeout=seconds,
            )  # fmt: skip
        except (subprocess.TimeoutExpired, subprocess.CalledProcessError):
            return None
        ran = perf_counter()
        stored = re.search(r"([\d.e+]+) states, stored", done.stdout)
        if (
            stored is None
            or "out of memory" in done.stdout
            or "max search depth too small" in done.stdout
        ):
            return None
        found = int(re.search(r"errors: (\d+)", done.stdout)[1])  # type: ignore[index]
        return Spin(found > 0, int(float(stored[1])), built - began, ran - built)

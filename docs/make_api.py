"""Writes docs/api.md from the docstrings: `python docs/make_api.py`."""

from __future__ import annotations

import inspect
import re
from pathlib import Path
from typing import Any

import ukemi
from ukemi.level import keywords

HERE = Path(__file__).parent

#: The parts of the page by what one wants to do, each with what is told in it; of some classes, their methods too.
PARTS = {
    "Lay out a level": ["Level", "LevelError", "Problem", "Place"],
    "Read, write and change files": [
        "load", "loads", "load_csv_map", "save", "dumps", "change", "rename", "Edit", "REMOVED",
    ],
    "Play levels one after another": ["Campaign"],
    "Check": ["check", "Report", "Finding", "Mistake", "Route", "Answers", "Answer"],
    "Check many": ["check_many", "measures_table"],
    "Mend": ["mends_of", "Mend"],
    "Ask what if": ["suppose"],
    "See what a change did": ["compare", "Comparison", "Remark"],
    "Scatter things": ["scatter", "Scattering", "Scattered"],
    "Play": ["play", "Play", "Turn", "Option"],
    "Let a crowd play": ["crowd", "Outcome"],
    "Draw": ["draw_map"],
}  # fmt: skip

#: The classes whose methods are told.
_WHOLE = (ukemi.Level, ukemi.Campaign, ukemi.Report, ukemi.Play)


def page() -> str:
    """The whole page."""
    lines = [
        "# From Python",
        "",
        "Made from the docstrings by `python docs/make_api.py`. Everything here is in the package `ukemi`;",
        "what is in no list here is not meant to be used.",
    ]
    for title, members in PARTS.items():
        lines += ["", f"## {title}"]
        for member in members:
            lines += told(member, getattr(ukemi, member), "###")
    return "\n".join(lines) + "\n"


def told(name: str, what: Any, heading: str) -> list[str]:
    """What is told of one function or class."""
    signature = "" if isinstance(what, property) else _signature(what)
    if not callable(what) and not isinstance(what, property):
        return ["", f"{heading} `{name}`", "", f"`{what!r}`: {inspect.getdoc(type(what))}"]
    lines = ["", f"{heading} `{name}{signature}`", ""]
    fields = re.search(r"Unpack\[given\.(\w+)\]", signature)
    if fields is not None:
        known = vars(keywords)[fields[1]].__annotations__
        lines[1] = f"{heading} `{name}{signature.replace(fields[0], '...')}`"
        lines += [f"Fields: {', '.join(f'`{one}`' for one in known)}.", ""]
    lines += ["```text", inspect.getdoc(what) or "", "```"]
    if inspect.isclass(what) and issubclass(what, _WHOLE):
        for member, value in vars(what).items():
            if not member.startswith("_") and (callable(value) or isinstance(value, property)):
                lines += told(f"{what.__name__}.{member}", value, "####")
    return lines


def _signature(what: Any) -> str:
    try:
        return str(inspect.signature(what)).replace("'", "")
    except (TypeError, ValueError):
        return ""


if __name__ == "__main__":
    (HERE / "api.md").write_text(page(), encoding="utf-8")

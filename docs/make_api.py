"""Writes docs/api.md from the docstrings: `python docs/make_api.py`."""

from __future__ import annotations

import inspect
import re
from pathlib import Path
from typing import Any

import ukemi
from ukemi.comparing import Comparison, Remark
from ukemi.level import keywords
from ukemi.mends import Mend
from ukemi.playing import Option, Play, Turn
from ukemi.scattering import Scattered, Scattering

HERE = Path(__file__).parent

#: The parts of the page, each with what is told in it; of classes, their public methods too.
PARTS = {
    "Levels": [
        "load",
        "loads",
        "load_csv_map",
        "save",
        "dumps",
        "change",
        "rename",
        "Edit",
        "Level",
        "LevelError",
    ],
    "Checking": [
        "check",
        "check_many",
        "Report",
        "Finding",
        "Answers",
        "Answer",
        "Route",
        "measures_table",
    ],
    "Mending": ["mends_of", Mend],
    "Supposing": ["suppose"],
    "Comparing": ["compare", Comparison, Remark],
    "Scattering": ["scatter", Scattering, Scattered],
    "Playing": ["play", Play, Turn, Option],
    "Pictures": ["draw_map"],
}


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
            what = getattr(ukemi, member) if isinstance(member, str) else member
            lines += told(what.__name__, what, "###")
    return "\n".join(lines) + "\n"


def told(name: str, what: Any, heading: str) -> list[str]:
    """What is told of one function or class."""
    signature = "" if isinstance(what, property) else _signature(what)
    lines = ["", f"{heading} `{name}{signature}`", ""]
    fields = re.search(r"Unpack\[given\.(\w+)\]", signature)
    if fields is not None:
        known = vars(keywords)[fields[1]].__annotations__
        lines[1] = f"{heading} `{name}{signature.replace(fields[0], '...')}`"
        lines += [f"Fields: {', '.join(f'`{one}`' for one in known)}.", ""]
    lines += ["```text", inspect.getdoc(what) or "", "```"]
    if inspect.isclass(what) and issubclass(what, (ukemi.Level, ukemi.Report, Play)):
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

"""``ukemi explain``: what a finding means."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from ..level.names import nearest
from ..report.pages import codes, page
from .output import fail


def explain(
    code: Annotated[
        str | None, typer.Argument(help="The finding's code; none for a list.", metavar="CODE")
    ] = None,
) -> None:
    """Explain a finding: what it means, a level that shows it, and how to mend it."""
    if code is None:
        print("\n".join(codes()))
        return
    try:
        text = page(code)
    except KeyError:
        near = nearest(code, codes())
        hint = f"did you mean {near!r}?" if near else "`ukemi explain` lists them"
        fail(f"{code}: there is no such finding; {hint}")
    if sys.stdout.isatty():
        from rich.console import Console
        from rich.markdown import Markdown

        Console().print(Markdown(text))
    else:
        print(text, end="")

"""``ukemi explain``: what a finding means."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from ..level.names import in_list, nearest_few
from ..report.pages import codes, page, page_summary
from .output import fail


def explain(
    code: Annotated[
        str | None, typer.Argument(help="The finding's code; none for a list.", metavar="CODE")
    ] = None,
) -> None:
    """Explain a finding: what it means, a level that shows it, and how to mend it."""
    if code is None:
        for one in codes():
            print(f"{one:<27} {page_summary(one)}")
        return
    try:
        text = page(code)
    except KeyError:
        near = nearest_few(code, codes())
        hint = f"did you mean {in_list(near, 'or')}?" if near else "`ukemi explain` lists them"
        fail(f"{code}: there is no such finding; {hint}")
    if sys.stdout.isatty():
        from rich.console import Console
        from rich.markdown import Markdown

        Console().print(Markdown(text))
    else:
        print(text, end="")

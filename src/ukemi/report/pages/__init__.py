"""The pages that explain findings, one for each code."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from importlib.resources.abc import Traversable


def codes() -> list[str]:
    """The codes of all findings.

    Example:
        >>> "can-get-stuck" in codes()
        True
    """
    names = [entry.name for entry in _folder().iterdir()]
    return sorted(name.removesuffix(".md") for name in names if name.endswith(".md"))


def page(code: str) -> str:
    """The page of a finding, as Markdown.

    Returns:
        The meaning of a finding, a level that shows it, and how to mend it.

    Raises:
        KeyError: There is no such finding.
    """
    if code not in codes():
        raise KeyError(code)
    return (_folder() / f"{code}.md").read_text(encoding="utf-8")


def page_summary(code: str) -> str:
    """The first sentence of a finding's page."""
    return page(code).split("\n\n")[1].replace("\n", " ").split(". ")[0].rstrip(".") + "."


def _folder() -> Traversable:
    from importlib.resources import files  # slow to load, and needed by few commands

    return files(__name__)

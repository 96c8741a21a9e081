"""How a notebook shows a thing. The layers that can draw put a function here when the package is loaded."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, ClassVar


class Displayed:
    """A thing that a notebook shows as more than a line of text."""

    #: Returns the HTML of a thing; ``None`` as long as nothing knows how.
    html_of: ClassVar[Callable[[Any], str] | None] = None

    def _repr_html_(self) -> str | None:
        show = Displayed.html_of
        return None if show is None else show(self)

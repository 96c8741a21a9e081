"""Corrections of a level that can be read: each undoes a mistake in what the file says."""

from __future__ import annotations

from collections.abc import Iterator

from ..checks.accepting import subjects_of
from ..language.fields.accepted import CODES
from ..language.text.editing import Edit
from ..level.names import in_list
from .correction import EASIER, Correction
from .lock_corrections import lock_corrections
from .site import Site
from .thing_corrections import thing_corrections
from .way_corrections import way_corrections


def level_corrections(site: Site) -> Iterator[Correction]:
    """Yield every correction of what a level says, in no order.

    Args:
        site: The level and one of its findings.
    """
    yield from way_corrections(site)
    yield from lock_corrections(site)
    yield from thing_corrections(site)


def acceptance(site: Site) -> Iterator[Correction]:
    """Accept a warning or note that the designer may have meant.

    Args:
        site: The level and the finding.
    """
    finding = site.finding
    if finding.severity == "error" or finding.code not in CODES:
        return
    said = (site.document.get("accept") or {}).get(finding.code)
    before = [] if said is None else [said] if isinstance(said, str) else list(said)
    names = [*before, *sorted(name for _, name in subjects_of(finding) if name not in before)]
    say = f"if it is meant, accept {finding.code} for {in_list(names)}"
    edit = Edit(("accept", finding.code), names[0] if len(names) == 1 else names)
    yield Correction(say, "accept", EASIER + 3, (edit,))

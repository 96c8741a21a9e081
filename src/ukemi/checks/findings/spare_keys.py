"""``spare-keys``: how many keys of a kind that is spent finishing can do without.

A level with none to spare, and one with a spare key::

    {start: quay, goal: mill, items: {key: {use: spent}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: key}]}
    the same with `quay: {items: {key: 2}}`
"""

from __future__ import annotations

from collections.abc import Iterator

from ..checked import Checked, finding
from ..result import Finding


@finding
def spare_keys(checked: Checked) -> Iterator[Finding]:
    """Tell how many keys of each kind are to spare."""
    for item, measure in checked.answers.measures.keys.items():
        if measure.spare:
            takes = f"takes {measure.needed} at least" if measure.needed else "can do without"
            message = (
                f"{item}: {measure.placed} in the level; finishing {takes}, "
                f"so {measure.spare} can be spared."
            )
            mend = "nothing need be done; a level that is to be tight has none to spare"
            place = checked.level.items[item].place
            yield Finding("spare-keys", "note", item, message, "", mend, place)

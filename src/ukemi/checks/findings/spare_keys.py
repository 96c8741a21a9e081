"""``spare-keys``: the units of a spent key that can be removed without making an answer worse.

A level with none to spare, and one with a spare key::

    {start: quay, goal: mill, items: {key: {use: spent}}, rooms: {quay: {items: key}, mill: {}},
     passages: [quay <-> mill: {lock: key}]}
    the same with `quay: {items: {key: 2}}`
"""

from __future__ import annotations

from collections.abc import Iterator

from ...level.names import in_list
from ..registry import Checked, finding
from ..result import Finding
from ..spare import START


@finding
def spare_keys(checked: Checked) -> Iterator[Finding]:
    """Report the spare units of each key, each proven by checking the level without it."""
    for item, measure in checked.answers.measures.keys.items():
        if measure.spare:
            where = in_list([_placed(one) for one in dict.fromkeys(measure.spare_in)])
            they = "it" if measure.spare == 1 else "them together"
            message = (
                f"{item}: {measure.spare} of {measure.placed} can be spared ({where}). "
                f"The level without {they} was checked: finishing, getting stuck and rewards are no worse."
            )
            tried = "" if measure.all_tried else "not every other unit was tried"
            mend = f"leave it, or take {they} out if the level should have none to spare"
            place = checked.level.items[item].place
            yield Finding("spare-keys", "note", item, message, tried, mend, place)


def _placed(where: str) -> str:
    return "what the player starts with" if where == START else where

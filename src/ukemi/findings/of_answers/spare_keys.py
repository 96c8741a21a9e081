"""``spare-keys``: the units of a spent key that can be removed without making an answer worse."""

from __future__ import annotations

from collections.abc import Iterator

from ...level.names import in_list
from ...questions.spare import START
from ..finding import Finding
from ..registry import Answered, finding


@finding
def spare_keys(answered: Answered) -> Iterator[Finding]:
    """Report the spare units of each key, each proven by checking the level without it."""
    for item, measure in answered.answers.measures.keys.items():
        if measure.spare:
            where = in_list([_placed(one) for one in dict.fromkeys(measure.spare_in)])
            they = "it" if measure.spare == 1 else "them together"
            message = (
                f"{item}: {measure.spare} of {measure.placed} can be spared ({where}). "
                f"The level without {they} was checked: finishing, getting stuck and rewards are no worse."
            )
            tried = "" if measure.all_tried else "not every other unit was tried"
            mend = f"leave it, or take {they} out if the level should have none to spare"
            place = answered.level.items[item].place
            yield Finding("spare-keys", "note", item, message, tried, mend, place)


def _placed(where: str) -> str:
    return "what the player starts with" if where == START else where

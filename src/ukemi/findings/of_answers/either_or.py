"""``either-or``: finishing takes all of one of several sets of things."""

from __future__ import annotations

from collections.abc import Iterator

from ...level.names import in_list
from ...level.place import Place
from ...questions.subjects import Subject
from ..finding import Finding
from ..registry import Answered, finding

#: The number of sets that a message lists.
_LISTED = 4


@finding
def either_or(answered: Answered) -> Iterator[Finding]:
    """Report what is needed either or, once for each place where ways part and meet again."""
    subjects = answered.context.by_name
    for one in answered.answers.alternatives or ():
        ways = [in_list([_words(subjects[name]) for name in way]) for way in one.ways]
        listed, more = ways[:_LISTED], len(ways) - _LISTED
        words = "; or ".join(listed) + (f"; or one of {more} more" if more > 0 else "")
        first = min(
            (name for way in one.ways for name in way), key=lambda name: _rank(subjects[name])
        )
        yield Finding(
            "either-or",
            "note",
            first,
            f"Finishing takes one of these: {words}.",
            "Every run that finishes does all of one of them, and none of them can be smaller",
            "nothing, if you mean these ways",
            _place(answered, subjects[first]),
        )


def _rank(subject: Subject) -> int:
    """Doors first, which a designer names; then chests, acts and things that lie about."""
    return ("door", "chest", "act", "item").index(subject.kind)


def _words(subject: Subject) -> str:
    if subject.kind == "item":
        room, _, item = subject.name.rpartition("/")
        return f"{item} from {room}"
    return subject.name


def _place(answered: Answered, subject: Subject) -> Place | None:
    level = answered.level
    if subject.kind == "item":
        room, _, item = subject.name.rpartition("/")
        return level.rooms[room].items[item].place
    return level.things[subject.name].what.place

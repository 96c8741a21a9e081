"""Sets of positions and single moves as decision diagrams."""

from __future__ import annotations

from collections.abc import Mapping

from oxidd.bdd import BDDFunction, BDDSubstitution
from oxidd.util import BooleanOperator

from ...rules.actions import Action, Key
from ...values import dataclass

#: An enumeration takes long to look a member up.
AND = BooleanOperator.AND


class Diagrams:
    """A set of positions: for each room and end of the run, those there, as a diagram.

    Args:
        parts: The diagrams; empty ones are left out.
    """

    __slots__ = ("parts",)

    def __init__(self, parts: Mapping[Key, BDDFunction]) -> None:
        self.parts = {key: one for key, one in parts.items() if one.satisfiable()}

    def __bool__(self) -> bool:
        return bool(self.parts)

    def __and__(self, other: Diagrams) -> Diagrams:
        both = self.parts.keys() & other.parts.keys()
        return Diagrams(
            {key: self.parts[key] & other.parts[key] for key in self.parts if key in both}
        )

    def __or__(self, other: Diagrams) -> Diagrams:
        joined = dict(self.parts)
        for key, one in other.parts.items():
            joined[key] = joined[key] | one if key in joined else one
        return Diagrams(joined)

    def __sub__(self, other: Diagrams) -> Diagrams:
        return Diagrams(
            {
                key: other.parts[key].imp_strict(one) if key in other.parts else one
                for key, one in self.parts.items()
            }
        )

    def __le__(self, other: Diagrams) -> bool:
        return not self - other

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Diagrams) and self.parts == other.parts

    __hash__ = None  # type: ignore[assignment]


@dataclass(frozen=True, eq=False)
class Added:
    """The amounts that a step adds to numbers, as a replacement for each bit of the numbers.

    Attributes:
        onward: The bits before the step, by the bits after it.
        back: The bits after the step, by the bits before it.
    """

    onward: BDDSubstitution
    back: BDDSubstitution


class DiagramStep:
    """An action as diagrams.

    Args:
        action: The action.
        asked: Where it can be made.
        becomes: The values that it sets, and the values that numbers may have after it.
        changed: The bits of what it sets.
        added: The amounts that it adds to numbers, if any.
        cost: What it counts as a part of a run; ``None`` for what its move costs.

    Attributes:
        free: Whether it asks for nothing, and changes nothing but where the player is.
    """

    __slots__ = (
        "action",
        "added",
        "asked",
        "becomes",
        "changed",
        "cost",
        "free",
        "source",
        "target",
    )

    def __init__(
        self,
        action: Action,
        asked: BDDFunction,
        becomes: BDDFunction,
        changed: BDDFunction,
        added: Added | None = None,
        cost: int | None = None,
    ):
        self.action = action
        self.cost: int = action.move.cost if cost is None else cost
        self.source, self.target = action.source, action.target
        self.asked, self.becomes, self.changed, self.added = asked, becomes, changed, added
        bare = asked.valid() and changed.valid() and added is None
        self.free = bare and self.source[1] == self.target[1]

    def after(self, positions: BDDFunction) -> BDDFunction:
        """The positions it leads to."""
        found = positions.apply_exists(AND, self.asked, self.changed)
        if self.added is not None:
            found = found.substitute(self.added.onward)
        return found & self.becomes

    def before(self, positions: BDDFunction) -> BDDFunction:
        """The positions it leads from."""
        found = positions.apply_exists(AND, self.becomes, self.changed)
        if self.added is not None:
            found = found.substitute(self.added.back)
        return found & self.asked

"""Findings that a designer accepts: a check does not list them."""

from __future__ import annotations

from ...level.names import nearest
from ...level.settings import Accepted
from .nodes import Node, place_of
from .notes import Notes, bad
from .types import Schema, Several, TextType

#: The codes of findings that can be accepted. That something is undecided cannot be, nor what cannot be
#: read.
CODES = (
    "bypassed", "can-die", "can-get-stuck", "cannot-finish", "color-mismatch", "copied-key",
    "does-nothing", "door-without-sides", "either-or", "expectation-failed", "left-behind", "needless-alternative",
    "never-done", "never-entered", "never-opens", "never-set", "never-taken", "nothing-gives", "nothing-hints",
    "open-lock", "opens-elsewhere", "ragged-map", "reward-can-be-missed", "reward-only-when-stuck",
    "reward-out-of-reach", "rewards-exclude-each-other", "same-color", "same-kind", "spare-keys",
    "unconnected", "unused-flag", "unused-item", "unused-lock", "unused-symbol",
)  # fmt: skip


class Accept:
    """Codes of findings, each with the names it is accepted for."""

    _names = Several(TextType())

    def read(self, notes: Notes, node: Node) -> tuple[Accepted, ...]:
        if node.id != "mapping":
            raise bad("bad-value", "`accept` maps codes of findings to names", node)
        found: list[Accepted] = []
        for key, names in node.value:
            code = key.value if key.id == "scalar" else ""
            if code not in CODES:
                message = f"{code!r} is not the code of a finding that can be accepted"
                raise bad("unknown-name", message, key, nearest(code, CODES))
            nodes = names.value if names.id == "sequence" else [names]
            for name, one in zip(self._names.read(notes, names), nodes, strict=True):
                accepted = Accepted(code, name, place_of(one))
                if accepted in found:
                    raise bad("duplicate-name", f"{code} is accepted for {name!r} twice", one)
                found.append(accepted)
        return tuple(found)

    def schema(self) -> Schema:
        return {
            "type": "object",
            "properties": {code: self._names.schema() for code in CODES},
            "additionalProperties": False,
        }

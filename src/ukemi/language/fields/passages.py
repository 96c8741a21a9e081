"""Reading passages."""

from __future__ import annotations

import re

from ...level.names import NAME_SCHEMA, ROOM_PATTERN, is_name
from ...level.passage import Passage
from .fields import EFFECTS, LABEL, NOTE, SEEN, Field, Fields, says
from .nodes import NULL, TEXT, Node, place_of, shown
from .notes import BadValue, Notes, bad
from .room_fields import LockType
from .types import BoolType, ConditionType, NewName, Schema, WholeType, text_or_one_field

PASSAGE = Fields(
    "a passage",
    Field("lock", LockType(), "The lock that keeps it shut: makes it a door."),
    Field("gate", ConditionType(), "The condition for each walk."),
    Field("once", BoolType(), "It collapses after one walk. Default: false."),
    Field("steps", WholeType(), "Its length. Default: 1."),
    Field("name", NewName("a passage"), "Its name. Default: the passage as it is written."),
    *EFFECTS,
    SEEN,
    LABEL,
    NOTE,
    *says("shut"),
)

_header = re.compile(rf"\s*({ROOM_PATTERN})\s*(<->|->)\s*({ROOM_PATTERN})\s*").fullmatch


class Passages:
    """A list of passages: each its text, or a mapping from its text to its fields."""

    def read(self, notes: Notes, node: Node) -> list[Passage]:
        if node.id == "scalar" and node.tag == NULL:
            return []
        if node.id != "sequence":
            message = f"passages is a list, one '- quay <-> granary' a line, not {shown(node)}"
            raise bad("bad-value", message, node)
        made: list[Passage] = []
        taken: dict[str, int] = {}
        for one in node.value:
            try:
                made.append(self.one(notes, one, taken))
            except BadValue as error:
                notes.problems.append(error.problem)
        return made

    def one(self, notes: Notes, node: Node, taken: dict[str, int]) -> Passage:
        """One passage; ``taken`` counts the passages of each text so far."""
        header, fields = self._split(node)
        match = _header(header.value) if header.id == "scalar" else None
        if match is None:
            raise self._no_passage(header)
        place = place_of(header)
        a, arrow, b = match[1], match[2], match[3]
        notes.references.append(("room", a, header))
        notes.references.append(("room", b, header))
        values = PASSAGE.read(notes, fields) if fields is not None else {}
        name = values.pop("name", None)
        text = f"{a} {arrow} {b}"
        if name is None:
            number = taken[text] = taken.get(text, 0) + 1
            name, named = (text if number == 1 else f"{text} #{number}"), False
        else:
            named = True
        return Passage(name, a, b, arrow == "<->", named, place=place, **values)

    def _split(self, node: Node) -> tuple[Node, Node | None]:
        if node.id == "scalar":
            return node, None
        if node.id == "mapping" and len(node.value) == 1:
            header, fields = node.value[0]
            return header, fields
        if node.id == "mapping" and node.value:
            message = "a passage has one text and its fields below it, indented further or in {}"
            raise bad("bad-value", message, node.value[1][0])
        raise self._no_passage(node)

    def _no_passage(self, node: Node) -> BadValue:
        text = node.value if node.id == "scalar" and node.tag == TEXT else ""
        hint = ""
        if "<-" in text and "<->" not in text:
            hint = "; write it the other way round, with ->"
        message = f"{shown(node)} is no passage: write 'room <-> room' or 'room -> room'{hint}"
        ends = re.fullmatch(r"(\w[^<>]*?) (<->|->) (\w[^<>]*)", text)
        joined = ["-".join(one.split()) for one in (ends[1], ends[3])] if ends else []
        near = f"{joined[0]} {ends[2]} {joined[1]}" if ends and all(map(is_name, joined)) else None
        return bad("bad-value", message, node, near)

    def schema(self) -> Schema:
        room = rf"{NAME_SCHEMA}(@[0-9]{{1,6}},[0-9]{{1,6}})?"
        text = rf"^\s*{room}\s*(<->|->)\s*{room}\s*$"
        one = {"anyOf": text_or_one_field(text, PASSAGE.schema())}
        return {"anyOf": [{"type": "array", "items": one}, {"type": "null"}]}

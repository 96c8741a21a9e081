"""The keywords of :class:`Level`'s methods, for editors and type checkers.

They are the fields of the level file with ``-`` written ``_``; a test holds them to its tables.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypedDict

from .conditions import Condition

ConditionGiven = str | Condition
CountsGiven = str | Sequence[str] | Mapping[str, int]
NamesGiven = str | Sequence[str]
PlacedGiven = str | Sequence[str] | Mapping[str, int | Mapping[str, Any]]
LockGiven = str | Condition | Mapping[str, Any]
PartsGiven = Mapping[str, Mapping[str, Any]]


class EffectFields(TypedDict, total=False):
    """What changes."""

    spends: CountsGiven
    loses: CountsGiven
    gives: CountsGiven
    sets: NamesGiven
    clears: NamesGiven
    flips: NamesGiven
    opens: NamesGiven


class NotedFields(TypedDict, total=False):
    """The label and the note of a thing."""

    label: str
    note: str


class SaysFields(TypedDict, total=False):
    """The texts of a thing."""

    says: str | Mapping[str, str]
    mentions: NamesGiven


class SeenFields(TypedDict, total=False):
    """The condition for seeing a thing."""

    seen: ConditionGiven


class ItemFields(NotedFields, SaysFields, total=False):
    """The fields of an item."""

    kind: str
    use: str
    max: int
    vital: bool
    slots: int
    on_pickup: Mapping[str, Any]
    color: str


class LockFields(EffectFields, NotedFields, SaysFields, total=False):
    """The fields of a lock."""

    needs: ConditionGiven
    from_: str
    relocks: bool
    together: bool
    steps: int
    color: str


class RoomFields(NotedFields, SaysFields, total=False):
    """The fields of a room."""

    items: PlacedGiven
    chests: PartsGiven
    switches: PartsGiven
    acts: PartsGiven
    gate: ConditionGiven
    drawn_at: Sequence[int]


class ChestFields(EffectFields, NotedFields, SaysFields, SeenFields, total=False):
    """The fields of a chest."""

    lock: LockGiven
    holds: CountsGiven
    steps: int


class ActFields(EffectFields, NotedFields, SaysFields, SeenFields, total=False):
    """The fields of an act."""

    needs: ConditionGiven
    repeat: bool
    teaches: str
    steps: int


class SwitchFields(EffectFields, NotedFields, SaysFields, SeenFields, total=False):
    """The fields of a switch."""

    needs: ConditionGiven
    once: bool
    teaches: str
    steps: int


class EventFields(EffectFields, NotedFields, SaysFields, total=False):
    """The fields of an event."""

    when: ConditionGiven


class PassageFields(EffectFields, NotedFields, SaysFields, SeenFields, total=False):
    """The fields of a passage."""

    lock: LockGiven
    gate: ConditionGiven
    once: bool
    steps: int
    name: str


class TileFields(EffectFields, NotedFields, SaysFields, SeenFields, total=False):
    """The fields of a legend entry."""

    item: PlacedGiven
    items: PlacedGiven
    lock: LockGiven
    gate: ConditionGiven
    chest: Mapping[str, Any]
    switch: Mapping[str, Any]
    act: Mapping[str, Any]
    room: str
    one_way: str
    solid: bool
    once: bool
    steps: int
    name: str
    bears: bool
    climb: bool


class InventoryFields(TypedDict, total=False):
    """The fields of the inventory."""

    start: CountsGiven
    slots: int
    drop: bool
    shared: bool
    hand_over: bool


class PlayerFields(TypedDict, total=False):
    """The fields of a player."""

    start: str
    inventory: CountsGiven


class ScatterFields(TypedDict, total=False):
    """The things to place again at random."""

    items: NamesGiven
    chests: NamesGiven
    into: NamesGiven
    apart: int
    at_most: int
    colors: str


class RulesFields(TypedDict, total=False):
    """The rules of play."""

    pickup: str
    finish: str
    hints: str
    falling: str


class ExpectFields(TypedDict, total=False):
    """The claims about the level."""

    finish: str
    stuck: str
    rewards: str
    never: ConditionGiven | Sequence[ConditionGiven]
    possible: ConditionGiven | Sequence[ConditionGiven]
    always_possible: ConditionGiven | Sequence[ConditionGiven]
    required: NamesGiven
    optional: NamesGiven
    shortest: Mapping[str, int]
    order: Sequence[Sequence[str]]

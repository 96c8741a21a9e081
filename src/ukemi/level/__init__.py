"""The model of a level: rooms, passages, locks, items, conditions and campaigns."""

from .condition_text import ConditionError, parse_condition
from .conditions import ALWAYS, And, At, Condition, Done, Has, HasAll, Not, Opened, Or
from .effects import Effects
from .event import Event
from .item import Item
from .level import Level, Thing
from .lock import Lock
from .passage import Passage
from .place import Place
from .problems import LevelError, Problem
from .room import Act, Chest, Placement, Room
from .settings import Claim, Expect, InOrder, Inventory, PlayRules, Shortest

__all__ = [
    "ALWAYS",
    "Act",
    "And",
    "At",
    "Chest",
    "Claim",
    "Condition",
    "ConditionError",
    "Done",
    "Effects",
    "Event",
    "Expect",
    "Has",
    "HasAll",
    "InOrder",
    "Inventory",
    "Item",
    "Level",
    "LevelError",
    "Lock",
    "Not",
    "Opened",
    "Or",
    "Passage",
    "Place",
    "Placement",
    "PlayRules",
    "Problem",
    "Room",
    "Shortest",
    "Thing",
    "parse_condition",
]

"""Reading a condition from its text."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from .conditions import (
    And,
    At,
    By,
    Carries,
    Condition,
    Done,
    EveryoneAt,
    Has,
    HasAll,
    Not,
    Opened,
    Or,
    PlayerAt,
    SomeoneAt,
)
from .names import NAME_PATTERN, RESERVED, ROOM_PATTERN, is_name

if TYPE_CHECKING:
    from lark import Lark

#: A name; in a campaign, with that of its level before it.
_NAME = rf"(?:{NAME_PATTERN}/)?{ROOM_PATTERN}"

GRAMMAR = rf"""
    ?start: any
    ?any: every ("or" every)*
    ?every: single ("and" single)*
    ?single: "not" single -> negated
           | "(" any ")"
           | [COUNT] NAME -> has
           | "all" NAME -> has_all
           | "at" NAME -> at
           | "someone" "at" NAME -> someone_at
           | "everyone" "at" NAME -> everyone_at
           | NAME "at" NAME -> player_at
           | NAME "carries" [COUNT] NAME -> carries
           | "by" NAME -> by
           | "opened" NAME -> opened
           | "done" NAME -> done
    COUNT: /[0-9]+/
    NAME: /{_NAME.replace("/", chr(92) + "/")}/
    %ignore /\s+/
"""

# Nearly every lock and gate is a lone item; those need no grammar, and no time to load one.
_lone_item = re.compile(rf"\s*(?:([0-9]+)\s+)?({_NAME})\s*").fullmatch

#: Deeper nesting than anyone writes, yet far from where Python's own recursion ends.
_DEEPEST = 100


class ConditionError(ValueError):
    """A condition that cannot be read.

    Attributes:
        offset: How many characters into the text the trouble starts.
        text: The offending part of the text.
    """

    def __init__(self, message: str, offset: int, text: str) -> None:
        super().__init__(message)
        self.offset = offset
        self.text = text


@lru_cache(maxsize=4096)
def parse_condition(text: str) -> Condition:
    """Read a condition.

    Args:
        text: A condition in the words of the level file.

    Returns:
        The condition as a tree.

    Raises:
        ConditionError: The text is not a condition; the error says where in it.

    Example:
        >>> parse_condition("2 iron-key")
        Has(name='iron-key', count=2)
        >>> str(parse_condition("(lamp  or  at quay) and not low-water"))
        '(lamp or at quay) and not low-water'
    """
    if (lone := _lone_item(text)) and lone[2] not in RESERVED:
        return Has(lone[2], _count(lone[1], lone.start(1)))
    if not text.strip():
        raise ConditionError("an empty condition", 0, text)
    if _nesting(text) > _DEEPEST:
        raise ConditionError("a condition nested too deeply to read", 0, text[:20] + "...")
    return _parse_tree(text)


def _nesting(text: str) -> int:
    return text.count("(") + len(re.findall(r"\bnot\b", text))


def _parse_tree(text: str) -> Condition:
    from lark import exceptions

    try:
        return _tree_to_condition(_grammar().parse(text))
    except exceptions.UnexpectedCharacters as error:
        at = error.pos_in_stream or 0
        raise ConditionError(f"{text[at]!r} cannot stand in a condition", at, text[at]) from None
    except exceptions.UnexpectedToken as error:
        if error.token.type == "$END":
            message = "the condition ends too early: a name or ')' is missing"
            raise ConditionError(message, len(text), "") from None
        word, before = str(error.token), error.token.start_pos or 0
        apart = re.search(r"([A-Za-z][\w-]*) +$", text[:before])
        if apart and is_name(word) and not {apart[1], word} & RESERVED:
            both = f"{apart[1]} {word}"
            said = (
                f"{both!r} cannot stand in a condition: a name has no blanks, or `and` is missing"
            )
            raise ConditionError(said, apart.start(), both) from None
        raise ConditionError(
            f"{word!r} cannot stand here in a condition", error.token.start_pos or 0, word
        ) from None


@lru_cache(maxsize=1)
def _grammar() -> Lark:
    from lark import Lark

    return Lark(GRAMMAR, parser="lalr", lexer="basic", maybe_placeholders=True)


def _count(text: str | None, offset: int) -> int:
    if text is None:
        return 1
    if len(text) > 6 or int(text) == 0:
        raise ConditionError(f"a count goes from 1 to 999999, not {text}", offset, text)
    return int(text)


def _tree_to_condition(tree: Any) -> Condition:
    kind, children = tree.data, tree.children
    match kind:
        case "any":
            return Or(_flat(Or, children))
        case "every":
            return And(_flat(And, children))
        case "negated":
            return Not(_tree_to_condition(children[0]))
        case "has":
            count, name = children
            return Has(str(name), _count(count, count.start_pos if count else 0))
        case "player_at":
            return PlayerAt(str(children[0]), str(children[1]))
        case "carries":
            player, count, item = children
            number = _count(count, count.start_pos if count else 0)
            return Carries(str(player), str(item), number)
    name = str(children[0])
    atoms = {
        "has_all": HasAll, "at": At, "opened": Opened, "done": Done, "by": By,
        "someone_at": SomeoneAt, "everyone_at": EveryoneAt,
    }  # fmt: skip
    return atoms[kind](name)


def _flat(kind: type[And] | type[Or], children: list[Any]) -> tuple[Condition, ...]:
    """The parts of an ``and`` or ``or``, with nested ones of the same kind taken in.

    The text of such a condition needs no inner parentheses, and reads back as an equal condition.
    """
    parts: list[Condition] = []
    for child in children:
        part = _tree_to_condition(child)
        parts.extend(part.parts if isinstance(part, kind) else (part,))
    return tuple(parts)

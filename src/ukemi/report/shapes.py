"""Shapes of plain values: one description both writes a value and gives its JSON Schema."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, NamedTuple

from ..language.fields.schema import closed

Schema = dict[str, Any]


class Shape:
    """Plain values that are written as they are."""

    def __init__(self, schema: Schema) -> None:
        self.schema = schema

    def write(self, value: Any) -> Any:
        """The value as it stands in JSON."""
        return value


class ListOf(Shape):
    """A list.

    Args:
        one: The shape of its entries.
        limits: Further keywords of the schema, such as ``minItems``.
    """

    def __init__(self, one: Shape, **limits: int) -> None:
        super().__init__({"type": "array", "items": one.schema, **limits})
        self._one = one

    def write(self, value: Sequence[Any]) -> Any:
        """The entries, each written."""
        return [self._one.write(one) for one in value]


class MapOf(Shape):
    """A mapping from names.

    Args:
        one: The shape of its values.
    """

    def __init__(self, one: Shape) -> None:
        super().__init__({"type": "object", "additionalProperties": one.schema})
        self._one = one

    def write(self, value: Mapping[str, Any]) -> Any:
        """The values, each written."""
        return {name: self._one.write(one) for name, one in value.items()}


class JsonField(NamedTuple):
    """A field of an object.

    Attributes:
        shape: The shape of its value.
        get: Takes the value from what is described.
        optional: Whether it is left out if the value is ``None``.
    """

    name: str
    shape: Shape
    get: Callable[[Any], Any]
    optional: bool = False


class Object(Shape):
    """An object with just these fields.

    Args:
        fields: The fields.
        name: The name by which a schema refers to it; none to write it out in each place.

    Example:
        >>> step = Object(JsonField("cost", Shape({"type": "integer"}), lambda one: len(one)))
        >>> step.write("abc"), step.schema["required"]
        ({'cost': 3}, ['cost'])
    """

    def __init__(self, *fields: JsonField, name: str = "") -> None:
        properties = {one.name: one.shape.schema for one in fields}
        self.whole = closed(properties, *(one.name for one in fields if one.optional))
        super().__init__({"$ref": f"#/$defs/{name}"} if name else self.whole)
        self._fields = fields

    def write(self, value: Any) -> Any:
        """The fields, each written; optional ones without a value are left out."""
        found = ((one, one.get(value)) for one in self._fields)
        return {
            one.name: one.shape.write(part)
            for one, part in found
            if part is not None or not one.optional
        }


class Choice(Shape):
    """A value of one of several shapes.

    Args:
        choices: The alternatives, each with the test that a value must pass, in the order of the tests.
    """

    def __init__(self, *choices: tuple[Callable[[Any], bool], Shape]) -> None:
        super().__init__({"anyOf": [one.schema for _, one in choices]})
        self._choices = choices

    def write(self, value: Any) -> Any:
        """The value in the first shape that it is of."""
        return next(one for is_of, one in self._choices if is_of(value)).write(value)


class Text(Shape):
    """Text, and what is written as text.

    Args:
        values: All that it can be; none for any.
    """

    def __init__(self, *values: str) -> None:
        super().__init__({"enum": [*values]} if values else {"type": "string"})

    def write(self, value: Any) -> Any:
        """The text."""
        return str(value)


def or_null(shape: Shape) -> Shape:
    """Return the shape of a value that may be missing, and is ``null`` then."""
    return Choice((lambda value: value is not None, shape), (lambda _: True, NULL))


NULL = Shape({"type": "null"})
COUNT = Shape({"type": "integer", "minimum": 0})
TEXT = Text()

"""The order of the required things, as pairs from which all others follow."""

from __future__ import annotations

from collections.abc import Mapping

from ..spaces import Limits

#: The last characters of the names of rooms and of gates, which distinguish them from other things.
ROOM, GATE = "\0", "\1"

Pairs = tuple[tuple[str, str], ...]


def ordered(before: Mapping[str, int], bits: Mapping[str, int], limits: Limits) -> Pairs:
    """Return the reduced pairs of names, without the marks of rooms and gates.

    Args:
        before: For each name, the earlier things, as bits; bits of other things are ignored.
        bits: The bit of each name.

    Raises:
        CutShortError: The time was over first.
    """
    named = 0
    for bit in bits.values():
        named |= bit
    mine = {name: before[name] & named & ~bit for name, bit in bits.items()}
    return tuple(
        (a.strip(ROOM + GATE), b.strip(ROOM + GATE)) for a, b in reduced(mine, bits, limits)
    )


def reduced(
    before: Mapping[str, int], bits: Mapping[str, int], limits: Limits | None = None
) -> Pairs:
    """The pairs of an order from which all others follow.

    The transitive reduction: A. V. Aho, M. R. Garey and J. D. Ullman, "The transitive reduction of
    a directed graph", SIAM Journal on Computing 1 (1972).

    Args:
        before: For each name, all that come before it, as bits.
        bits: The bit of each name.
        limits: How long it may take; ``None`` for as long as it takes.

    Returns:
        The pairs, the earlier first.

    Raises:
        CutShortError: The time was over first.

    Example:
        >>> reduced({"a": 0, "b": 1, "c": 3}, {"a": 1, "b": 2, "c": 4})
        (('a', 'b'), ('b', 'c'))
    """
    # In this order whatever comes before has a lower rank, so that the highest one left is direct.
    ranked = sorted(before, key=lambda one: before[one].bit_count())
    written = {name: n for n, name in enumerate(bits)}
    pairs = []
    direct: dict[str, list[str]] = {}
    for rank, name in enumerate(ranked):
        if limits is not None:
            limits.check()
        left = before[name]
        found = []
        for earlier in reversed(ranked[:rank]) if left else ():
            if left & bits[earlier]:
                found.append(earlier)
                left &= ~(before[earlier] | bits[earlier])
                if not left:
                    break
        direct[name] = found
    for name in before:
        pairs += [(one, name) for one in sorted(direct[name], key=written.__getitem__)]
    return tuple(pairs)

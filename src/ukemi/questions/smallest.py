"""Find a minimal set that is enough for something."""

from __future__ import annotations

from collections.abc import Callable, Sequence


def irreducible(names: Sequence[str], enough: Callable[[Sequence[str]], bool]) -> list[str]:
    """Return a set of names that is enough for something, and that is not enough without any one of its
    names.

    U. Junker, "QuickXplain: preferred explanations and relaxations for over-constrained problems",
    AAAI 2004: few questions where the set is small.

    Args:
        names: The names in order of preference; all together are enough.
        enough: Whether some names are enough; with more names it stays so.

    Returns:
        The set, in the order of the names.

    Example:
        >>> irreducible("abcdef", lambda some: {"b", "e"} <= set(some))
        ['b', 'e']
    """

    def within(background: list[str], some: Sequence[str], grown: bool) -> list[str]:
        if grown and enough(background):
            return []
        if len(some) == 1:
            return list(some)
        first, rest = some[: len(some) // 2], some[len(some) // 2 :]
        of_rest = within([*background, *first], rest, bool(first))
        of_first = within([*background, *of_rest], first, bool(of_rest))
        return [*of_first, *of_rest]

    return [] if not names or enough([]) else within([], names, False)

"""The order of the required things without rooms, as a designer thinks of it: keys, doors and acts."""

from __future__ import annotations

from .answers import Answers
from .transitive_reduction import Pairs, reduced


def backbone(answers: Answers) -> Pairs:
    """Return the pairs (before, after) without the rooms on the way, and without pairs that follow from
    others.
    """
    order = answers.order or ()
    bits = {
        name: 1 << n
        for n, name in enumerate(dict.fromkeys(name for pair in order for name in pair))
    }
    before = dict.fromkeys(bits, 0)
    waiting = dict.fromkeys(bits, 0)
    followers: dict[str, list[str]] = {name: [] for name in bits}
    for earlier, later in order:
        waiting[later] += 1
        followers[earlier].append(later)
    ready = [name for name, count in waiting.items() if count == 0]
    for name in ready:  # in topological order, so that what comes before is known
        for later in followers[name]:
            before[later] |= before[name] | bits[name]
            waiting[later] -= 1
            if waiting[later] == 0:
                ready.append(later)
    kinds = (answers.doors, answers.chests, answers.acts, answers.items, answers.events)
    things = {
        name: bit
        for name, bit in bits.items()
        if name not in answers.rooms or any(name in kind for kind in kinds)
    }
    mask = sum(things.values())
    return reduced({name: before[name] & mask for name in things}, things)

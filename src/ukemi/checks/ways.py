"""Which rooms can be walked to around another, were every passage open."""

from __future__ import annotations

from ..rules import PLACE, Rules


class Ways:
    """The passages of a level, whatever they ask for."""

    def __init__(self, rules: Rules) -> None:
        self.places = {room: number for number, room in enumerate(rules.places)}
        self.start = rules.start()[PLACE]
        self.leads: list[set[int]] = [set() for _ in rules.places]
        for move in rules.moves:
            if (to := move.leads_to) is not None:
                for place in move.places:
                    self.leads[place].add(to)
        self._known: dict[str, set[int]] = {}

    def around(self, room: str) -> set[int]:
        """The rooms, by number, that can be walked to without entering one.

        What is not among them is dominated by that room: T. Lengauer and R. E. Tarjan, "A fast
        algorithm for finding dominators in a flowgraph", TOPLAS 1 (1979); here by plain search.
        """
        if room not in self._known:
            closed = self.places[room]
            found = {self.start} - {closed}
            ahead = list(found)
            while ahead:
                for to in self.leads[ahead.pop()]:
                    if to != closed and to not in found:
                        found.add(to)
                        ahead.append(to)
            self._known[room] = found
        return self._known[room]

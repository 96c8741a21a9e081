"""The changes of a move, in words."""

from __future__ import annotations

from ..rules import DEAD, END, FINISHED, Position, Rules


def changes(rules: Rules, before: Position, after: Position) -> list[str]:
    """Return the differences between two positions, except the player's room.

    Returns:
        Phrases such as ``iron-key +1`` or ``pit-door opened``.
    """
    found = []
    for number, (variable, was, now) in enumerate(zip(rules.variables, before, after, strict=True)):
        if was == now:
            continue
        match variable:
            case ("carried", item):
                found.append(f"{item} {now - was:+d}")
            case ("carried", item, player):
                found.append(f"{player}'s {item} {now - was:+d}")
            case ("flag", flag):
                found.append(f"{flag} turned {'on' if now else 'off'}")
            case ("opened", name):
                found.append(f"{name} opened")
            case ("done", name) if number in rules.changes_by_itself:  # nobody did it
                found.append(f"{name} happened")
            case ("collapsed", name):
                found.append(f"{name} collapsed")
            case ("end",) if number == END:
                found.append({FINISHED: "finished", DEAD: "dead"}[now])
    return found

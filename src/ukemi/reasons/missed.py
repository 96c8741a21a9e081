"""Why a move misses a reward: what it uses up, and where no way leads back."""

from __future__ import annotations

from ..facts.relaxed import Relaxed
from ..level import Level
from ..level.joined import Joined
from ..spaces import Route
from .accounts import account


def why_missed(level: Level, relaxed: Relaxed, route: Route) -> str:
    """Return why the last move of a route misses a reward.

    Returns:
        Where each unit of what the move used up went, and the room that even the relaxed level has no way
        back to. Nothing if the move does neither.
    """
    rules = relaxed.rules
    before, after = route.positions[-2:]
    said = []
    if route.moves[-1].what["do"] != "drop":
        for item in level.items:
            if sum(after[one] - before[one] for one in rules.carried(item)) < 0:
                said.append(account(level, rules, item, route, level.rooms.keys()))
    walked = rules.walked(before, after)
    if walked is not None:
        here, there = (rules.places[one[walked]] for one in (before, after))
        if before[walked] not in relaxed.reach(after).standing[walked]:
            said.append(f"there is no way back from {there} to {here}")
    why = "; ".join(said)
    return why[:1].upper() + why[1:]


def on_branches(level: Level, rewards: list[str]) -> tuple[str, str] | None:
    """Return two levels of a campaign that no run enters both of, if two rewards are in them."""
    if not isinstance(level, Joined) or len(rewards) != 2:
        return None
    one, other = (name.partition("/")[0] for name in rewards)
    following = level.campaign.following
    return None if other in following([one]) or one in following([other]) else (one, other)

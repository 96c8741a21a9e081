"""The picture of a campaign: its levels, the ways between them, and what is carried along each."""

from __future__ import annotations

from collections.abc import Mapping

from matplotlib.axes import Axes
from matplotlib.figure import Figure

from ..level import ALWAYS, At, Level, Passage, Room
from ..level.campaign import CampaignParts, Onward, Stage
from ..level.joined import Joined
from ..level.names import in_list
from ..questions.answers import LevelAnswer
from .labels import Written
from .map import draw_boxes
from .marks import GOAL, START
from .style import FONT, theme


def draw_campaign(
    level: Joined, levels: Mapping[str, LevelAnswer], axes: Axes | None = None
) -> Figure:
    """Draw a campaign.

    Args:
        level: The levels of the campaign as one.
        levels: The answers for each level, as in :attr:`Answers.levels`; may be empty.
        axes: Where to draw; ``None`` for a figure of its own.

    Returns:
        The figure: a box a level, an arrow a way.
    """
    campaign = level.campaign
    sketch = Level(campaign.name)
    sketch.rooms = {name: Room(name) for name in campaign.stages}
    sketch.start, sketch.goal = campaign.start.name, At(campaign.goal)
    labels: dict[str, list[Written]] = {}
    for number, way in enumerate(campaign.ways):
        passage = Passage(f"{way.name} #{number}", way.a, way.b, two_way=False)
        sketch.passages.append(passage)
        labels[passage.name] = _on_way(campaign, way)
    written = {
        name: _in_level(campaign, stage, levels.get(name))
        for name, stage in campaign.stages.items()
    }
    never = {name for name, one in levels.items() if str(one.status) == "never"}
    return draw_boxes(sketch, written, labels, None, never, axes)


def _in_level(campaign: CampaignParts, stage: Stage, answer: LevelAnswer | None) -> list[Written]:
    lines = [Written(stage.name, size=FONT, bold=True)]
    if stage.level.name != stage.name:
        lines.append(Written(stage.level.name, color=theme().faint))
    if stage is campaign.start:
        lines.append(Written("START", START, "start"))
    if stage.name == campaign.goal:
        lines.append(Written("GOAL", GOAL, "goal"))
    if stage.keeps:
        lines.append(Written("is found as it was left"))
    start = [f"{n} {item}" if n > 1 else item for item, n in stage.level.inventory.start.items()]
    if start:
        lines.append(Written(f"gives {in_list(start)} at its start"))
    for item, (least, most) in (answer.enters or {}).items() if answer else ():
        if most:
            lines.append(
                Written(f"entered with {least if least == most else f'{least} to {most}'} {item}")
            )
    return lines


def _on_way(campaign: CampaignParts, way: Onward) -> list[Written]:
    there = campaign.stages[way.b]
    brings = "all" if there.brings is None else in_list(sorted(there.brings)) or "nothing"
    lines = [Written(way.name, bold=True), Written(f"brings {brings}")]
    if way.when != ALWAYS:
        lines.append(Written(f"when {way.when}"))
    if way.sets:
        lines.append(Written(f"sets {in_list(way.sets)}"))
    return lines

"""Changes to a campaign, each to one of its files."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..checks import Finding, Report
from ..files.campaign_files import with_texts
from ..files.editing import Edit, plain
from ..level import ALWAYS, Level
from ..level.campaign import Onward
from ..level.joined import Joined
from .mend import Mend
from .site import Site, with_field


@dataclass(frozen=True, eq=False)
class CampaignMend(Mend):
    """A change to one of the files of a campaign.

    Attributes:
        file: The file that it changes.
    """

    file: str = field(default="", kw_only=True)

    def apply(self, level: Level) -> Level:
        """The campaign with the change made; the level given stays as it is."""
        assert isinstance(level, Joined)
        return with_texts(level, {self.file: self.new_text(level)})

    def source(self, level: Level) -> tuple[str, str]:
        """The file that it changes, and what that says."""
        assert isinstance(level, Joined)
        return self.file, level.texts[self.file]

    def diff(self, level: Level) -> list[str]:
        """The lines of the file that go and those that come, below its name."""
        changed = super().diff(level)
        return changed if self.file == level.file else [self.file, *changed]

    def as_dict(self) -> dict[str, Any]:
        """The mend as plain values, as they stand in JSON."""
        said = super().as_dict()
        return {"say": said.pop("say"), "file": self.file, **said}


def changes_of_campaign(level: Joined, report: Report, finding: Finding) -> Iterator[CampaignMend]:
    """Every change to try for a finding of a campaign: so far, for what is left behind.

    Args:
        level: The levels of the campaign as one.
        report: The check of the campaign.
        finding: The finding to mend.
    """
    if finding.code != "left-behind":
        return
    stage, _, item = finding.subject.partition("/")
    campaign = level.campaign
    document = plain(level.texts[str(campaign.file)], campaign.file)
    for number, way in enumerate(campaign.ways):
        if way.b != stage:
            continue
        most = sum(one.level.placed(item) for one in campaign.stages.values())
        for units in range(1, min(3, most) + 1):
            wants = f"{units} {item}" if units > 1 else item
            when = f"({way.when}) and {wants}" if way.when != ALWAYS else wants
            edits = _with_when(document, campaign.ways, number, when)
            say = f"let the way {way.name} ask for {wants}"
            yield CampaignMend(say, tuple(edits), file=str(campaign.file))
    inside = campaign.stages[stage].level
    if inside.file is None:
        return
    text = level.texts[inside.file]
    site = Site(inside, plain(text, inside.file), report, finding)
    for room in site.rooms[:3]:
        more = site.with_one_more(room, item)
        if more:
            say = f"put one more {item} in {room} of {stage}"
            yield CampaignMend(say, tuple(more), file=inside.file)


def _with_when(document: Any, ways: Sequence[Onward], number: int, when: str) -> list[Edit]:
    """The edits that let a way ask for something; a campaign that says no ways says them then."""
    if "ways" not in document:
        said = [
            {one.name: {"when": when}} if n == number else one.name for n, one in enumerate(ways)
        ]
        return [Edit(("ways",), said)]
    return with_field(("ways", number), document["ways"][number], "when", when)

"""Changes to a campaign, each to one of its files."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from ..checks import Finding, Report
from ..files.campaigns import with_texts
from ..files.editing import Edit, plain
from ..level import ALWAYS, Level
from ..level.joined import Joined
from .mend import Mend
from .site import Site


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
        report: The check of it.
        finding: What is to be mended.
    """
    if finding.code != "left-behind":
        return
    stage, _, item = finding.subject.partition("/")
    campaign = level.campaign
    document = plain(level.texts[str(campaign.file)], campaign.file)
    for number, way in enumerate(campaign.ways):
        if way.b != stage:
            continue
        wants = _wanted(finding, item)
        when = f"({way.when}) and {wants}" if way.when != ALWAYS else wants
        yield CampaignMend(
            f"let the way {way.name} ask for {wants}",
            (Edit(("ways",), _ways_with(campaign.ways, number, when)),)
            if "ways" not in document
            else tuple(_with_when(document, number, when)),
            file=str(campaign.file),
        )
    inside = campaign.stages[stage].level
    if inside.file is None:
        return
    text = level.texts[inside.file]
    site = Site(inside, plain(text, inside.file), report, finding)
    for room in list(dict.fromkeys([inside.start, *inside.rooms]))[:3]:
        edits = site.with_one_more(room, item)
        if edits:
            say = f"put one more {item} in {room} of {stage}"
            yield CampaignMend(say, tuple(edits), file=inside.file)


def _wanted(finding: Finding, item: str) -> str:
    """What is to be asked for, as the finding says it."""
    said = finding.message.partition(" without ")[2].partition(",")[0]
    return said or item


def _with_when(document: Any, number: int, when: str) -> list[Edit]:
    said = document["ways"][number]
    if isinstance(said, str):
        return [Edit(("ways", number), {said: {"when": when}})]
    text = next(iter(said))
    if said[text] is None:
        return [Edit(("ways", number), {text: {"when": when}})]
    return [Edit(("ways", number, text, "when"), when)]


def _ways_with(ways: Any, number: int, when: str) -> list[Any]:
    """The ways that a campaign has when it says none, with what one of them asks for."""
    return [{one.name: {"when": when}} if n == number else one.name for n, one in enumerate(ways)]

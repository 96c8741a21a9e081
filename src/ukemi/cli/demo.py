"""``ukemi demo``: the whole job on the levels that ship."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..bulk.checking import Asking, check_and_mend
from ..demo import DEMO_CAMPAIGN, DEMO_LEVELS, DemoLevel, campaign_text
from ..language.files.replacing import write_file
from ..level.joined import Joined
from ..report import Line, report_lines
from ..report.on_console import print_lines
from ..spaces import Limits


def demo(
    folder: Annotated[
        Path, typer.Argument(help="Where to put the levels and their pictures.")
    ] = Path("tide-mill"),
) -> None:
    """Check and draw the levels of the old tide mill, and say what to try next."""
    folder.mkdir(parents=True, exist_ok=True)
    for level in DEMO_LEVELS:
        _show(level, folder)
    _show_campaign(folder)
    wasted = folder / "wasted-key.yaml"
    lines = [
        Line("", f"Levels and pictures are in the folder {folder}.", "bold"),
        Line("", "Try next:"),
        Line("", f"open {wasted}, take `use: spent` out of iron-key, save it, and run", "", 2),
        Line("", f"ukemi check {wasted}", "bold", 4),
        Line("", "or see what else would mend it:", "", 2),
        Line("", f"ukemi mend {wasted}", "bold", 4),
        Line("", "draw the mistake on a picture of its own:", "", 2),
        Line("", f"ukemi draw {wasted} --route stuck -o wasted-key.png", "bold", 4),
        Line("", "place the keys of another level again, each time such that it holds:", "", 2),
        Line("", f"ukemi scatter {folder / 'jumbled-keys.yaml'} -n 20 -o rounds", "bold", 4),
    ]
    print_lines(lines)


def _show_campaign(folder: Path) -> None:
    from ..draw import draw_campaign, save

    for name in DEMO_CAMPAIGN:
        if not (folder / name).exists():
            write_file(folder / name, campaign_text(name), over=False)
    file = folder / DEMO_CAMPAIGN[0]
    report = check_and_mend(str(file), Limits(), Asking(mends=True))
    assert isinstance(report.level, Joined)
    picture = file.with_suffix(".png")
    save(draw_campaign(report.level, report.answers.levels), picture)
    shows = "a campaign of three levels: what is forgotten in one is missed in the next"
    print_lines([Line("", f"--- {shows} ---", "bold")])
    print_lines(report_lines(report))
    print_lines([Line("Picture", str(picture), "", 2), Line("", "")])


def _show(shown: DemoLevel, folder: Path) -> None:
    from ..draw import draw_map, save

    file = folder / shown.file
    if not file.exists():  # one that is there may have been worked on: it is used as it is
        write_file(file, shown.text(), over=False)
    report = check_and_mend(str(file), Limits(), Asking(mends=True))
    routes = [finding.route for finding in report.findings if finding.route is not None]
    picture = file.with_suffix(".png")
    save(draw_map(report.level, routes[0] if routes else report.routes.get("finish")), picture)
    print_lines([Line("", f"--- {shown.shows} ---", "bold")])
    print_lines(report_lines(report))
    print_lines([Line("Picture", str(picture), "", 2), Line("", "")])

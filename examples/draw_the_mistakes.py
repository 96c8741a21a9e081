"""Check every level file of a folder and draw the first mistake of each that has one.

Run it as it stands, ``python examples/draw_the_mistakes.py``, for the demo levels; or name a
folder of levels and a folder for the pictures.
"""

import sys
import tempfile
from pathlib import Path

import ukemi
from ukemi.demo import DEMO_LEVELS


def draw_mistakes(levels: Path, pictures: Path) -> list[Path]:
    """Draw the first route into trouble of each level that has one."""
    drawn = []
    for file in sorted(levels.glob("*.yaml")):
        try:
            report = ukemi.check(file)
        except ukemi.LevelError as error:
            print(error)
            continue
        routes = [finding.route for finding in report.findings if finding.mistake]
        print(f"{file.name}: finish {report.answers.finish}, stuck {report.answers.stuck}")
        if routes:
            picture = pictures / f"{file.stem}-mistake.png"
            ukemi.draw_map(report.level, picture, route=routes[0])
            drawn.append(picture)
    return drawn


def main() -> None:
    """Take the folders from the command line, or make some with the demo levels."""
    if len(sys.argv) == 3:
        levels, pictures = map(Path, sys.argv[1:])
    else:
        levels = pictures = Path(tempfile.mkdtemp())
        for level in DEMO_LEVELS:
            (levels / level.file).write_text(level.text(), encoding="utf-8")
    for picture in draw_mistakes(levels, pictures):
        print(f"wrote {picture}")


if __name__ == "__main__":
    main()

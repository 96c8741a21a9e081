"""Draw the picture of the architecture: the layers that `lint-imports` enforces, and what each package does.

Run ``python docs/make_architecture.py``. The layers are read from ``pyproject.toml`` and the words from
each package, so the picture cannot say anything else than the code.
"""

import ast
import textwrap
import tomllib
from pathlib import Path

from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.patches import Rectangle

ROOT = Path(__file__).parent.parent
WIDE, ROW = 12.8, 0.66
INK, FAINT, PAPER = "#222430", "#6a6f7d", "#ffffff"
#: The core (it prints nothing and reads no file), level files, and all that users meet.
CORE, FILES, OUTSIDE = "#dbe8f4", "#efe6d2", "#e9e9ee"


def layers() -> list[list[str]]:
    """Return the packages of each layer, the highest first."""
    text = (ROOT / "pyproject.toml").read_text(encoding="utf-8")
    contract = tomllib.loads(text)["tool"]["importlinter"]["contracts"][0]
    return [
        [package.strip().removeprefix("ukemi.") for package in layer.split("|")]
        for layer in contract["layers"]
    ]


def core() -> list[str]:
    """Return the packages that do no input or output."""
    text = (ROOT / "pyproject.toml").read_text(encoding="utf-8")
    contract = tomllib.loads(text)["tool"]["importlinter"]["contracts"][1]
    return [package.removeprefix("ukemi.") for package in contract["source_modules"]]


def about(package: str) -> str:
    """Return the first sentence of the docstring of a package, or of a module."""
    file = ROOT / "src" / "ukemi" / package / "__init__.py"
    file = file if file.exists() else file.parent.with_suffix(".py")
    said = ast.get_docstring(ast.parse(file.read_text(encoding="utf-8"))) or ""
    return " ".join(said.split()).partition(". ")[0].rstrip(".")


def main() -> None:
    """Write docs/screenshots/architecture.png."""
    high = 1.2 + ROW * len(layers())
    figure = Figure(figsize=(WIDE, high), dpi=100, facecolor=PAPER)
    FigureCanvasAgg(figure)
    axes = figure.add_axes((0, 0, 1, 1))
    axes.set(xlim=(0, WIDE), ylim=(high, 0))
    axes.axis("off")
    axes.text(0.4, 0.4, "The packages of Ukemi", size=15, weight="bold", color=INK, va="center")
    axes.text(
        0.4, 0.75, "Each imports only from the rows below it. Blue: the core, which prints nothing and reads no file.",
        size=9.5, color=FAINT, va="center",
    )  # fmt: skip
    inside = core()
    for number, packages in enumerate(layers()):
        wide = (WIDE - 0.8 - 0.15 * (len(packages) - 1)) / len(packages)
        for column, package in enumerate(packages):
            x, y = 0.4 + column * (wide + 0.15), 1.05 + number * ROW
            color = CORE if package in inside else FILES if package == "language" else OUTSIDE
            axes.add_patch(
                Rectangle((x, y), wide, ROW - 0.1, facecolor=color, edgecolor=FAINT, lw=0.6)
            )
            axes.text(x + 0.15, y + 0.27, package, size=11, weight="bold", color=INK, va="center")
            words = textwrap.wrap(about(package), int((wide - 1.55) * 17))
            axes.text(x + 1.45, y + 0.27, "\n".join(words), size=8, color=INK, va="center")
    figure.savefig(ROOT / "docs" / "screenshots" / "architecture.png")


if __name__ == "__main__":
    main()

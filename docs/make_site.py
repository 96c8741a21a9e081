"""What `mkdocs build` does besides: command pages with what commands really print, and files from elsewhere.

A page of `commands/` is a command's help, what is written about it, and the output of its blocks::

    ```run
    ukemi check wasted-key.yaml
    ```

They are run where the demo levels lie. `run 12` shows the first twelve lines. Pictures called `made/NAME` are those that
the blocks wrote.
"""

from __future__ import annotations

import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from mkdocs.exceptions import PluginError
from mkdocs.structure.files import File, Files

from ukemi.cli.main import COMMANDS
from ukemi.demo import DEMO_CAMPAIGN, DEMO_LEVELS, campaign_text
from ukemi.report.pages import codes

ROOT = Path(__file__).parent.parent
PAGES = ROOT / "src" / "ukemi" / "report" / "pages"
#: Files that are not in docs/: where each lies on the site.
ELSEWHERE = {
    ROOT / "README.md": "index.md",
    ROOT / "examples" / "tide_mill.ipynb": "examples/tide_mill.ipynb",
    **{ROOT / name: name for name in ("CONTRIBUTING.md", "SECURITY.md", "CHANGELOG.md")},
    ROOT / "LICENSE": "LICENSE.txt",
    **{PAGES / f"{code}.md": f"findings/{code}.md" for code in codes()},
    **{path: f"examples/{path.name}.txt" for path in (ROOT / "examples").glob("*.py")},
    **{path: f"examples/{path.name}.txt" for path in (ROOT / "examples" / "workflows").iterdir()},
}
NOTEBOOK = ROOT / "examples" / "tide_mill.ipynb"
BLOCK = re.compile(r"```run( [0-9]+)?\n(.*?)```", re.DOTALL)


def on_config(config: Any) -> None:
    """Put the commands into the list of pages, in their groups."""
    for part in config["nav"]:
        if "Commands" in part:
            part["Commands"] = [
                {name: f"commands/{name}.md"} for group in COMMANDS.values() for name in group
            ]


def on_files(files: Files, config: Any) -> None:
    """Take in what lies outside of docs/."""
    for path, where in ELSEWHERE.items():
        files.append(File.generated(config, where, abs_src_path=str(path)))
    files.append(File.generated(config, "notebook.md", content=notebook_page()))


def notebook_page() -> str:
    """The example notebook with what each cell shows."""
    here: dict[str, Any] = {}
    parts = []
    for cell in json.loads(NOTEBOOK.read_text(encoding="utf-8"))["cells"]:
        text = "".join(cell["source"]).strip()
        if cell["cell_type"] == "markdown":
            parts.append(text)
            continue
        *before, last = text.split("\n")
        exec("\n".join(before), here)
        shown = eval(last, here)
        flat = " ".join(shown._repr_html_().split("\n"))
        parts += [f"```python\n{text}\n```", f'<div class="shown">{flat}</div>']
    return "\n\n".join(parts) + "\n"


def on_page_markdown(markdown: str, page: Any, config: Any, files: Files) -> str:
    """Make a page of what is written: output put in, links set right."""
    where = page.file.src_uri
    if where.startswith("commands/"):
        markdown = command_page(Path(where).stem, markdown, config, files)
    here = next(
        (path for path, other in ELSEWHERE.items() if other == where), ROOT / "docs" / where
    )
    return re.sub(
        r"\]\((?!https?:|made/)([^)#\s]+)",
        lambda found: f"]({moved(found[1], here, where)}",
        markdown,
    )


def moved(link: str, here: Path, page: str) -> str:
    """Where a link of a page leads on the site."""
    target = (here.parent / link).resolve()
    on_site = ELSEWHERE.get(target)
    if on_site is None and target.is_dir():
        on_site = f"{target.name}/{sorted(target.glob('*.py'))[0].name}.txt"
    if on_site is None:
        on_site = target.relative_to(ROOT / "docs").as_posix()
    return Path(os.path.relpath(on_site, Path(page).parent)).as_posix()


def command_page(name: str, written: str, config: Any, files: Files) -> str:
    """The page of a command."""
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        for level in DEMO_LEVELS:
            (folder / level.file).write_text(level.text(), encoding="utf-8")
        for file in DEMO_CAMPAIGN:
            (folder / file).write_text(campaign_text(file), encoding="utf-8")
        usage = output(f"ukemi {name} --help", folder)
        page = BLOCK.sub(lambda block: shown(block[2], block[1], folder), written)
        for picture in re.findall(r"\(made/([^)]+)\)", page):
            made = (folder / picture).read_bytes()
            files.append(File.generated(config, f"commands/made/{picture}", content=made))
    return f"# ukemi {name}\n\n{page}\n\n## All it takes\n\n```text\n{usage}\n```\n"


def shown(commands: str, most: str | None, folder: Path) -> str:
    """A block of commands as typed, each with what it prints."""
    lines = []
    for command in commands.strip().splitlines():
        lines += [f"$ {command}", *output(command, folder).splitlines()]
    if most and len(lines) > int(most):
        lines = [*lines[: int(most)], f"... and {len(lines) - int(most)} more lines"]
    return "\n".join(["```console", *lines, "```"])


def output(command: str, folder: Path) -> str:
    """What a command prints; the build ends where it cannot be done."""
    path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
    done = subprocess.run(
        [shutil.which("bash") or "sh", "-c", command],
        cwd=folder,
        env={**os.environ, "PATH": path, "COLUMNS": "100", "NO_COLOR": "1"},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        timeout=120,
        check=False,
    )
    if done.returncode not in (0, 1) or "Traceback" in done.stdout:
        raise PluginError(f"{command}\nends with {done.returncode}:\n{done.stdout}")
    return done.stdout.rstrip()

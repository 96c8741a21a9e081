"""The README for a package page: its pictures and links lead to where the project is found."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from hatchling.metadata.plugin.interface import MetadataHookInterface


class ReadmeHook(MetadataHookInterface):
    """Gives the package its description."""

    def update(self, metadata: dict[str, Any]) -> None:
        """Put the README into the metadata, with whole addresses in place of paths."""
        text = (Path(self.root) / "README.md").read_text(encoding="utf-8")
        home = "https://example.org/ukemi"
        text = re.sub(r"\]\((?!https?:|#)([^)\s]+)\)", rf"]({home}/\1)", text)
        metadata["readme"] = {"content-type": "text/markdown", "text": text}

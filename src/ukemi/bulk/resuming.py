"""Keep the results of checked levels in a file, so that an interrupted run can continue."""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from ..language.files.replacing import WriteError

#: The form of the file; another is not read.
_FORM = 1


class Resumed:
    """A file of results: a line for each level, added as soon as the level is checked.

    Args:
        path: The file; it is made if there is none.
        options: What the results depend on besides the files, such as the options of the command.

    Raises:
        WriteError: The file cannot be written, is something else, or was made with other options.
    """

    def __init__(self, path: Path, options: dict[str, Any]) -> None:
        self._path = path
        self._known: dict[str, dict[str, Any]] = {}
        self._keys: dict[str, str] = {}
        head = {"ukemi-resume": _FORM, "options": options}
        try:
            lines = path.read_text(encoding="utf-8").splitlines() if path.exists() else []
            if not lines:
                path.write_text(json.dumps(head) + "\n", encoding="utf-8")
        except (OSError, UnicodeDecodeError) as error:
            raise WriteError(
                f"{path}: {getattr(error, 'strerror', None) or 'it is no text'}"
            ) from None
        for number, line in enumerate(lines):
            try:
                said = json.loads(line)
            except ValueError:
                said = None
            if number == 0 and (not isinstance(said, dict) or said.get("ukemi-resume") != _FORM):
                raise WriteError(
                    f"{path}: this file keeps no results of a check; it is left as it is"
                )
            if number == 0 and said != json.loads(json.dumps(head)):
                raise WriteError(f"{path}: these results are of a check with other options")
            if number and isinstance(said, dict):  # the last line may be cut off
                self._known[said["file"]] = said
        if lines and not path.read_bytes().endswith(b"\n"):
            with path.open("a", encoding="utf-8") as opened:
                opened.write("\n")

    def of(self, file: str, parts: Iterable[Path]) -> Any:
        """Return the result of a level; ``None`` if the file has none, or the level's files have changed.

        Ask before the level is checked: :meth:`keep` adds its result to what the files say now.

        Args:
            parts: The files that it is made of.
        """
        known = self._known.get(file)
        key = self._keys[file] = _key(parts)
        return known["result"] if known is not None and known["key"] == key else None

    def keep(self, file: str, result: Any) -> None:
        """Add the result of a level, after :meth:`of` was called for it.

        Args:
            result: The result, as plain values.
        """
        said = {"file": file, "key": self._keys[file], "result": result}
        line = json.dumps(said, ensure_ascii=False)
        with self._path.open("a", encoding="utf-8") as opened:
            opened.write(line + "\n")


def _key(parts: Iterable[Path]) -> str:
    """A digest of some files."""
    from hashlib import sha256  # it takes a while to load, and few checks are resumed

    found = sha256()
    for one in parts:
        content = one.read_bytes() if one.is_file() else b""
        found.update(f"{one.name} {len(content)} ".encode() + content)
    return found.hexdigest()

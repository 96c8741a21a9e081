"""Running one command in a process that has the libraries loaded already."""

from __future__ import annotations

import os
import sys

from ukemi.cli import main as command_line


def one_command(args: list[str], cwd: str, env: dict[str, str], out: str, err: str) -> None:
    """Run one command as ``python -m ukemi`` does, its output written to files."""
    for number, name in enumerate((os.devnull, out, err)):
        flags = os.O_RDONLY if number == 0 else os.O_WRONLY | os.O_CREAT
        os.dup2(os.open(name, flags, 0o600), number)
    os.environ.clear()
    os.environ.update(env)
    os.chdir(cwd)
    sys.argv = ["ukemi", *args]
    command_line.run()

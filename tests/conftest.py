"""Which random levels the tests run on; and the compiled files of the commands that they start.

Without ``UKEMI_LEVELS`` every user runs the same ones. With it, so many fresh ones are made.
"""

from __future__ import annotations

import compileall
import os
from pathlib import Path

from hypothesis import settings
from hypothesis.internal.conjecture import providers

settings.register_profile("same", derandomize=True, database=None, print_blob=True)
settings.register_profile("fresh", print_blob=True)
# Hypothesis also draws the constants of modules that happen to be loaded, which differ from run to run.
providers._get_local_constants = lambda: providers._local_constants
settings.load_profile("fresh" if "UKEMI_LEVELS" in os.environ else "same")


def pytest_sessionstart() -> None:
    """Compile the package once: an environment may forbid its processes to keep what they compile."""
    if "PYTEST_XDIST_WORKER" not in os.environ:
        compileall.compile_dir(Path(__file__).parents[1] / "src", quiet=2)

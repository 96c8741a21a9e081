"""Which random levels the tests are run on.

Without ``UKEMI_LEVELS`` every user runs the same ones. With it, so many fresh ones are made.
"""

from __future__ import annotations

import os

from hypothesis import settings

settings.register_profile("same", derandomize=True, database=None, print_blob=True)
settings.register_profile("fresh", print_blob=True)
settings.load_profile("fresh" if "UKEMI_LEVELS" in os.environ else "same")

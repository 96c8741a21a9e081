"""Placing things anew at random, so that what a level promises still holds."""

from .placing import Laid
from .scatter import TRIES, Draw, Scattered, Scatterer, Scattering
from .wishes import Wishes

__all__ = ["TRIES", "Draw", "Laid", "Scattered", "Scatterer", "Scattering", "Wishes"]

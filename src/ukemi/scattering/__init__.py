"""Place keys and chests at random, as the level promises."""

from .placing import Laid
from .scatter import TRIES, Draw, Scattered, Scatterer, Scattering
from .wishes import Wishes

__all__ = ["TRIES", "Draw", "Laid", "Scattered", "Scatterer", "Scattering", "Wishes"]

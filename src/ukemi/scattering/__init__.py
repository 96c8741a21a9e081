"""Place keys and chests again at random, so that the level keeps its promises."""

from .placing import Laid
from .scatter import TRIES, Draw, Scattered, Scatterer, Scattering
from .wishes import Wishes

__all__ = ["TRIES", "Draw", "Laid", "Scattered", "Scatterer", "Scattering", "Wishes"]

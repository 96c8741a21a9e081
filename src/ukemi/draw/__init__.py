"""Draw pictures of a level: its map, a route, the inventory, the order of things, the locks."""

from .campaign_map import draw_campaign
from .inventory import draw_inventory
from .lock_table import draw_locks
from .map import draw_map, save
from .order_graph import draw_order
from .pace_plot import draw_pace
from .shares import draw_shares
from .style import drawn_dark

__all__ = [
    "draw_campaign",
    "draw_inventory",
    "draw_locks",
    "draw_map",
    "draw_order",
    "draw_pace",
    "draw_shares",
    "drawn_dark",
    "save",
]

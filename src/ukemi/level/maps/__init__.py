"""Tile maps: floors drawn as text, and how they are cut into rooms."""

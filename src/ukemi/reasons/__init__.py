"""Find why nothing finishes from a position."""

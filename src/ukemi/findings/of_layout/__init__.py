"""Findings about the layout, before any search: one file for each."""

"""Findings about the answers: one file for each, found by the registry that they join."""

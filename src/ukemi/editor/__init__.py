"""Serve text editors: completion, hover, diagnostics and renaming in level files."""

"""Searches that grow with the real choices of a level, compared with the plain one by the tests."""

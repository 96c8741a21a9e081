"""Levels in the forms of other programs: tables for spreadsheets, graphs for graph tools."""

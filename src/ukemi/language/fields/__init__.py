"""The fields of a level file: one table for each part of a level, with how its values are read and written."""

"""Convert levels to and from the formats of other programs: tables, graphs, planning problems and nets."""

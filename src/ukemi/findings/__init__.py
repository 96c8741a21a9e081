"""Find what is wrong with a level: one kind of finding a file, of its layout or of the answers.

The page of each finding, ``report/pages/CODE.md``, has a level that shows it and the same level mended;
the tests check both.
"""

"""What the layout alone tells, before any search, a file each."""

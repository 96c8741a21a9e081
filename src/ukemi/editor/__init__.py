"""Level files in a text editor: what is known of a text while it is written."""

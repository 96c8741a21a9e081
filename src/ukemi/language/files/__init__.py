"""Level files on disk: loading, saving, writing whole or not at all, and older versions."""

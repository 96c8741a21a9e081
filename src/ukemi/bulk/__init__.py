"""Check many levels: in several processes, or on a cluster."""

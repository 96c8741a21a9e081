"""Checking levels one by one and by the thousand: in processes, and on a cluster."""

"""The commands: parse, call, print."""

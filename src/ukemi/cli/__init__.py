"""The commands: each reads its options, calls the library and prints the result."""

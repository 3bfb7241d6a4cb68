"""The library."""

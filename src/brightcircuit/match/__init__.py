"""The match."""

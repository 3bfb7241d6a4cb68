"""Bikes and their immutable revisions."""

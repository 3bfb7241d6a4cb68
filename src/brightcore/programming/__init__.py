"""Deriving parameter values from the description, each with its reason."""

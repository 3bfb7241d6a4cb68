"""Describing a bike: patterns to start from, and changes that keep what still fits."""

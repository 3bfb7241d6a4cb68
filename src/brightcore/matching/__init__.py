"""Limits along the current path, pack arithmetic, riding, heat, legal class and cost."""

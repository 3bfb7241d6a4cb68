"""Wiring rules: findings about a bike before anything is powered."""

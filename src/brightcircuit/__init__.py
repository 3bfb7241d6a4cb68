"""Bright Circuit: the web application around `brightcore`."""

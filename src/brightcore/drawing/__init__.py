"""Geometry of the Line as plain shapes with ids and roles, and its SVG."""

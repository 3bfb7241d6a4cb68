"""The description of one bike: parts, ports, pins, joins, settings."""

"""People, roles and preferences of one shop."""

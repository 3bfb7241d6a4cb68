"""What files hold before anyone has looked at it."""

from typing import Any

Json = Any
"""A parsed JSON value: whatever a file may hold, until its schema has passed it."""

JsonObject = dict[str, Json]
"""A parsed JSON object."""

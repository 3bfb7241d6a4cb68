"""A station that a stranger adds: this folder, and its name in `STATIONS`."""

"""Practice: simulated bikes with hidden faults, drills, progress. It never touches the shop's own
figures."""

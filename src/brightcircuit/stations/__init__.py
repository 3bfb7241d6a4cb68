"""The stations of the order of work, and what every job page shows."""

"""Everything of a shop as one archive of open files, and back into an empty copy."""

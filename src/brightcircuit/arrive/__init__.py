"""What came in, and whether the pack is safe to touch."""

"""Evidence, and the engine that reads it."""

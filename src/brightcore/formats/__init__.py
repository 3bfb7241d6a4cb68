"""Open files in and out: JSON with a schema, CSV, SPICE. The only part of the core that does
I/O."""

"""The link to a device: registers, reading and writing that tells the truth, learning runs, a
stand-in."""

"""The bench side of the stand-in: registers by which hands are simulated, on a unit above its
own."""

BENCH_ABOVE = 100
THROTTLE, SECTOR, LEVER, FAULT, ARGUMENT, BIKE_FAULT = range(6)
"""Registers of the bench side: throttle in thousandths, sector of the wheel, lever, fault of the
device and what it is about, fault of the bike as 1 + its place in the list (0: none)."""

"""Temperatures that motors and controllers stand. The one home of these limits."""

ROLL_BACK_C, STOP_C, HARM_C = 95.0, 125.0, 130.0
"""Where a motor's power is reduced, where it stops, and above which magnets and glue go (90 to 100,
120 to 130 °C, common practice)."""

CONTROLLER_LIMIT_C = 85.0
"""Where a controller reduces its current: its case, its capacitors (common practice)."""

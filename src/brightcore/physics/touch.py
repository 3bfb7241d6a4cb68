"""Volts that hurt when touched (source iec-61140). The one home of these limits."""

TOUCH_V = 60.0
"""Volts DC above which a touch is dangerous in the dry (source iec-61140)."""

TOUCH_WET_V = 30.0
"""The same where skin or ground is wet (common practice)."""

"""From solved pins to what a technician would see."""

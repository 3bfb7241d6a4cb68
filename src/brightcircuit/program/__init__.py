"""Program: every parameter wanted, why, has, entered, read back."""

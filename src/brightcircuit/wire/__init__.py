"""The Wire station: what belongs to what, what each conductor sees, first power-up."""

"""Predictions: every bike variant solved in the states that are asked for, what would be seen, what
a meter shows."""

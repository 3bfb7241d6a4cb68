"""Figures and formulas of the trade that know nothing of bikes: each has its one home here."""

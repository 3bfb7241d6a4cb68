"""The work on a bike in order: first power-up, steps with what they need, cautions before acts."""

"""The work on a bike in order: first light, steps with what they need, cautions before acts."""

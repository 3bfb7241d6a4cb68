"""Finding the fault: hypotheses, predictions, evidence, the next test, the repair."""

"""Generic Bayes and expected information; knows nothing of bikes."""

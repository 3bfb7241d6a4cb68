"""One bike looked at as a whole, and the rules that find what is wrong with it."""

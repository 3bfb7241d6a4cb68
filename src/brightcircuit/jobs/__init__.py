"""Jobs, their log and their summaries; the Bench."""

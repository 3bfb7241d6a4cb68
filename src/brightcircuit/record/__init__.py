"""What was done, proved and written down."""

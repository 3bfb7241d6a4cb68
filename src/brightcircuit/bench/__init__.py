"""The Bench: all jobs, new jobs, jobs from files."""

"""Practice: a hidden fault on a simulated bike, acts at the bench, a score, and short drills."""

"""The plan, what it means and what follows from it: pure functions on immutable values."""

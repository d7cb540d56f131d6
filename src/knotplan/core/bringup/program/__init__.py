"""A program held against the plan: what its constants and calls mean, without running it."""

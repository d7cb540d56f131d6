"""The model of a part file, and how its parameters make one definite part of it."""

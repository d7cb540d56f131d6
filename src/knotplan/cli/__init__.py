"""The same from a terminal, through the same core."""

"""Pins by any of their names, and never a guess."""

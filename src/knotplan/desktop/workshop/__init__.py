"""Describing a board of one's own: headers, a grid of pins, a live picture and a live check."""

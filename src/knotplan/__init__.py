"""Knot Plan: which pin, through what, fed from where, and will it survive?"""

__version__ = "0.1.0"

"""Knot Plan: which pin, through what, fed from where, and will it survive?"""

__version__ = "0.1.0"
HOME = "https://knotplan.example"
"""where the project will live; a name of RFC 2606 until it has a home"""

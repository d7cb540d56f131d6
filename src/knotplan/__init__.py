"""Knot Plan: which pin, through what, fed from where, and will it survive?"""

__version__ = "0.1.0"
RELEASED = "2026-12-02"
"""the day of this version"""
HOME = "https://knotplan.example"
"""where the project will live; a name of RFC 2606 until it has a home"""

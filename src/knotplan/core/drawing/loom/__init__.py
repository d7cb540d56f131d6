"""The loom: where board, parts and cords lie, and the picture of it as plain shapes.

One picture serves the window, SVG, PNG and PDF alike.
"""

"""Plans that are right, and plans with one planted mistake each, generated over all boards.

Pins are chosen by the boards' own tables, not by the program's matching, so that the two can disagree.
"""

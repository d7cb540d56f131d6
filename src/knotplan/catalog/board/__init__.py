"""The model of a board file, a file for each kind of thing that a board has."""

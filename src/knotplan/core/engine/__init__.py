"""Volts and amperes: from the circuit to clusters, cases and corners, and to their operating points."""

"""Waveforms as an instrument has captured them, read as what was planned to be there, and held against it."""

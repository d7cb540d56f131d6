"""One engine for everything resistive: nodal analysis with junctions, many samples at once."""

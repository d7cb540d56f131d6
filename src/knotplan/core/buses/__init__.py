"""Who is on which bus, at which address or select, how fast, and whether its lines carry that."""

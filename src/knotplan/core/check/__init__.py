"""From facts to findings: the analysis, its rules, and what mends them."""

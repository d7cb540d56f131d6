"""Numbers as people write them: prefixes, preferred values, and how a number was computed."""

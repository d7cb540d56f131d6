"""How one alternative of a need is met by one contact."""

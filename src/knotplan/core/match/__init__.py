"""Needs against offers: how well each contact can do what a lead needs."""

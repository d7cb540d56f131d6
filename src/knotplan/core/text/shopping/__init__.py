"""What to buy or take from the drawer, as people do it: equal things together, wire by the metre with its
cuts."""

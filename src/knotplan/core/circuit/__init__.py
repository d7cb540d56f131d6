"""The plan resolved against the catalogue: contacts, nets, supplies, units, copper."""

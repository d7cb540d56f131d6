"""What the checks say of many plans, in the formats that build servers and editors read."""

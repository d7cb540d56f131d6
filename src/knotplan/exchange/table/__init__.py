"""Tables as spreadsheets and web pages have them: what parts their cells, where their heads stand, what is
merged, and whether two sides stand beside each other."""

"""What there is to read: cards, tables, changes in words, numbers for the program."""

"""What comes in from a bench: text of the usual Linux tools, captures, and the bench itself where it is at
hand."""

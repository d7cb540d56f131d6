"""The document: board, parts, ties; and the edits that make another plan of it."""

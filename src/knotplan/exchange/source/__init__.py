"""Program source, read by parsers; nothing of it is run or imported."""

"""What the program said of many plans before its inside was put in order, so
that nothing it says changes unseen."""

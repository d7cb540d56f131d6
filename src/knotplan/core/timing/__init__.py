"""What each output does, and when: waves, and the numbers that a program needs for them."""

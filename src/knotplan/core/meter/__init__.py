"""What a meter reads on the bench: before power, in stages, and when something is wrong."""

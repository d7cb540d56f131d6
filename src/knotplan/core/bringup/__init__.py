"""What the bench and the program say, held against the plan."""

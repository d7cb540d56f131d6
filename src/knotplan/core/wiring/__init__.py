"""From the plan to the bench: what the hands do next, in which order, in which hole, and what is done."""

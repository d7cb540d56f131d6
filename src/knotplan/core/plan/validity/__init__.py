"""What makes a plan valid, said once: readers, edits and tests ask `faults`."""

"""What was worked out once, and from what: after an edit only what it touches is asked again."""

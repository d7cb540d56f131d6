"""A newcomer's first five minutes: one sentence at a time, beside the thing that it speaks of."""

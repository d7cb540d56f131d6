"""The findings beside the bench: a card each, and the list that places them."""

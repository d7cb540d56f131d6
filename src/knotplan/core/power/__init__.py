"""Power: the tree of feeds, activities and what can happen together,
cords, batteries, and what feeds back."""

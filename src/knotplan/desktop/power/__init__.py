"""The Power view: the tree of supplies, what is chosen in it, activities and their plot."""

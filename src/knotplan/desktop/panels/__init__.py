"""The inspector's panels: one for each kind of thing that can be selected."""

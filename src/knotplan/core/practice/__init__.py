"""A bench to practise on: the plan with something wrong, which answers as a bench would."""

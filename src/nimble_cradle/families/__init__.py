"""A module a family: bushes, arms, chassis brackets. Law, solid, stock rows and checks of each."""

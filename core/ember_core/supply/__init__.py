"""The way from the battery to the rails: the power tree, a model of each converter, and the solver for all operating
points at all states of charge at once."""

"""Heat: what the case holds back, how long it takes to warm, what its material stands. Knows nothing of what makes the heat."""

"""Heat: what the case holds back, and how long it takes to warm. Knows nothing of what makes the heat."""

"""What is said of the draw."""

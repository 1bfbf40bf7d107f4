"""What is said of the supply."""

"""What is said of the case and what is in it."""

"""What is said of the battery."""

"""What is said of the runtime."""

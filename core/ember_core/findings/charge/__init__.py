"""What is said of charging and heat."""

"""What the `ember` command does: set-up, start, stop, test, evaluate, bench, shots. Standard library only."""

"""Large things that people bring, by the hash of their content: stored once, whoever brings them, and read by those only who did."""

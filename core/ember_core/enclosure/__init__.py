"""The case and the bodies in it: where they lie, how near each other and the walls."""

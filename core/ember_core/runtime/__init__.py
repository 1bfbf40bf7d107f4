"""How long the battery lasts: load, supply and battery solved together, the limits at which modes fail, the integral over
the state of charge, its range, and the same event by event."""

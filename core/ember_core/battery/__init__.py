"""The battery: chemistries and their figures, a cell's curves, the pack as a voltage source with a resistance, its fit to
measured discharges. Knows nothing of what hangs on it."""

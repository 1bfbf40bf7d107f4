"""Changes of a design that may help, as JSON Patches: edits, and the choice of what to put in from the catalogue. Whether
they help is found out elsewhere (`studies.trials`)."""

"""Refilling the battery: a charger, its setting and its port, the time and the heat that it takes."""

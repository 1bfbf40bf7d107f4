"""What can be put in: generic parts, cells, stages and chargers with typical figures and invented designations."""

from .entries import MOST_IN_FILE, Catalogue, Entry, EntryKind, built_in, own_key, read_entries, read_entry

__all__ = ["MOST_IN_FILE", "Catalogue", "Entry", "EntryKind", "built_in", "own_key", "read_entries", "read_entry"]

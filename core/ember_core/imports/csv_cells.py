"""Texts in CSV cells that a spreadsheet would take for a formula: disarmed on the way out, read back unchanged."""

from __future__ import annotations

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_GUARD = "'"


def disarmed(text: str) -> str:
    """A person's text as a cell: an apostrophe before what would be a formula, and before a text that begins with one,
    so that `rearmed` gives back exactly what went in."""
    return _GUARD + text if text.startswith((*_FORMULA, _GUARD)) else text


def rearmed(cell: str) -> str:
    """The text of a cell that `disarmed` wrote; other cells are left as they are."""
    return cell[1:] if cell.startswith(_GUARD) and cell[1:].startswith((*_FORMULA, _GUARD)) else cell

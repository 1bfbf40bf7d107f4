"""Wiring: which pin goes to which signal, what finds none, and the wires of the supply."""

from .assign import Assignment, assign
from .roles import Device, Role, Wants, hosts, wants_of
from .sheet import LeadRow, WireEnd, WiringFinding, WiringOfHost, WiringSheet, wiring_csv, wiring_sheet
from .typed import needs_text, pins_text, read_needs, read_pins

__all__ = [
    "Assignment", "Device", "LeadRow", "Role", "Wants", "WireEnd", "WiringFinding", "WiringOfHost", "WiringSheet", "assign", "hosts", "needs_text",
    "pins_text", "read_needs", "read_pins", "wants_of", "wiring_csv", "wiring_sheet",
]  # fmt: skip

"""Typical figures of cell chemistries.

The curves are typical values at low rate for current cells of each kind, drawn from the shapes in
G. Plett, *Battery Management Systems* vol. 1 (2015), ch. 2 (lithium-ion), and D. Linden & T. Reddy,
*Handbook of Batteries*, 3rd ed. (2002), ch. 10 (alkaline) and 14 (lithium / manganese dioxide).
A single cell may differ by some 30 mV and a factor of 1.5 in resistance.
Iron phosphate: Plett (2015), ch. 2, and Linden & Reddy, 4th ed. (2011), ch. 26; nickel-metal-hydride: 4th ed., ch. 22;
lithium primaries: 4th ed., ch. 14.
"""

from __future__ import annotations

from ..design import Chemistry
from .chemistry_data import ChemistryData
from .primary import PRIMARY
from .rechargeable import RECHARGEABLE

CHEMISTRIES: dict[Chemistry, ChemistryData] = {**RECHARGEABLE, **PRIMARY}

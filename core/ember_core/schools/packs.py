"""Which packs a school may take, and which of them are worth trying on a gadget."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from ..battery.chemistry import CHEMISTRIES
from ..battery.pack import pack_size_mm, resting_v
from ..catalogue import Catalogue
from ..design import Battery, Cell, Charger, Design, Size

SchoolKey = Literal["cells", "swap", "pouch", "module", "board", "bank"]
SCHOOLS: tuple[SchoolKey, ...] = get_args(SchoolKey)
MODULES = ("charger-boost-1", "charger-boost-2", "charger-boost-cut")
ON_BOARD = ("charger-on-board-100", "charger-on-board-500", "charger-on-board-path")
MOST_IN_SERIES = 4
WALLS_MM = 5.0  # walls and clearance on both sides together, for the bare question whether it can go in
ODD = (
    "zinc-air",
    "silver-oxide",
    "lead-acid",
    "super-capacitor",
    "alkaline-block",
    "lithium-titanate",
)  # for uses of their own
LEAST_AH = 0.02
USUAL_MM = (
    [14.0, 14.0, 50.0],
    [18.5, 18.5, 65.0],
    [21.5, 21.5, 70.0],
)  # lithium cylinders that are sold singly, and charged so


@dataclass(frozen=True)
class PackChoice:
    cell: Cell
    series: int

    @property
    def energy_wh(self) -> float:
        """At half charge."""
        return self.cell.capacity_ah * resting_v(self.cell, 0.5) * self.series

    @property
    def kind(self) -> tuple[str, int]:
        return self.cell.chemistry, self.series

    @property
    def mass_g(self) -> float:
        return self.cell.mass_g * self.series

    @property
    def size_mm(self) -> Size:
        return pack_size_mm(self.cell, self.series)


def school_of(design: Design, catalogue: Catalogue) -> SchoolKey:
    """The school that a design is of as it stands."""
    cell, charger = design.battery.cell, design.charger
    if cell.bank is not None:
        return "bank"
    if charger is None:
        return "swap" if CHEMISTRIES[cell.chemistry].rechargeable else "cells"
    for school, keys in (("module", MODULES), ("board", ON_BOARD)):
        if any(_is(charger, catalogue, key) for key in keys):
            return school  # type: ignore[return-value]
    return "pouch"


def _is(charger: Charger, catalogue: Catalogue, key: str) -> bool:
    entry = catalogue.by_key.get(key)
    return entry is not None and entry.charger is not None and entry.charger.name == charger.name


def belongs(cell: Cell, school: SchoolKey) -> bool:
    """Whether such cells are what a school takes.

    >>> from ember_core.design import Cell
    >>> cell = Cell(name="Cell", chemistry="lithium-ion", form="cylinder", capacity_ah=2.0, resistance_ohm=0.05, cutoff_v=3.0, discharge_max_a=4, size_mm=(18, 65, 18), mass_g=45)
    >>> belongs(cell, "bank")
    False
    """
    if school == "bank":
        return cell.bank is not None
    if cell.bank is not None or cell.chemistry in ODD or cell.capacity_ah < LEAST_AH:
        return False
    rechargeable = CHEMISTRIES[cell.chemistry].rechargeable
    if school == "cells":
        return not rechargeable
    if school == "swap":  # such as chargers for single cells take
        nickel = cell.chemistry == "nickel-metal-hydride"
        return cell.form == "cylinder" and (nickel or (rechargeable and sorted(cell.size_mm) in USUAL_MM))
    return cell.chemistry == "lithium-ion" and cell.form in ("pouch", "cylinder") and cell.full_v in (None, 4.2)


def packs_of(catalogue: Catalogue, school: SchoolKey) -> list[PackChoice]:
    """All packs of a school, the lightest first. Lithium cells stand alone: two in series want a charger that balances them."""
    found = []
    for cell in catalogue.cells:
        if belongs(cell, school):
            alone = cell.bank is not None or (cell.chemistry.startswith("lithium") and resting_v(cell, 0.5) > 2.5)
            found += [PackChoice(cell, n) for n in range(1, (1 if alone else MOST_IN_SERIES) + 1)]
    return sorted(found, key=lambda p: (p.mass_g, p.energy_wh))


def over_mm(pack: PackChoice, room_mm: Size) -> float:
    """By how much a pack is too large for a room, the way it lies best [mm]; not above 0 where it goes in.

    >>> from ember_core.design import Cell
    >>> cell = Cell(name="Cell", chemistry="lithium-ion", form="cylinder", capacity_ah=2.0, resistance_ohm=0.05, cutoff_v=3.0, discharge_max_a=4, size_mm=(18, 65, 18), mass_g=45)
    >>> over_mm(PackChoice(cell, 2), (50, 50, 80))
    -9.0
    """
    sides = zip(sorted(pack.size_mm), sorted(room_mm), strict=True)
    return max(a - (b - WALLS_MM) for a, b in sides)


def gives(pack: PackChoice, peak_w: float) -> bool:
    """Whether its cells are made for such a peak, nearly empty.

    >>> from ember_core.design import Cell
    >>> cell = Cell(name="Cell", chemistry="lithium-ion", form="cylinder", capacity_ah=2.0, resistance_ohm=0.05, cutoff_v=3.0, discharge_max_a=4, size_mm=(18, 65, 18), mass_g=45)
    >>> gives(PackChoice(cell, 1), 5.0), gives(PackChoice(cell, 1), 50.0)
    (True, False)
    """
    volts = pack.cell.cutoff_v * pack.series
    return pack.cell.bank is not None or pack.cell.discharge_max_a * volts >= peak_w


def present(battery: Battery) -> PackChoice:
    return PackChoice(battery.cell, battery.series)

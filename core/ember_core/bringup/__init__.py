"""First power: what to measure in which order, what it should read in this design, and what a reading that is not so would mean."""

from .assembly import Assembly, AssemblyStep, assembly
from .reading import Cause, JudgedReading, Read, TakenReadings, judge_reading, take_readings
from .sheet import (
    METER,
    BringUp,
    BringUpStep,
    SupplyLimits,
    bring_up,
    mode_currents,
    sheet_csv,
    sheet_text,
    supply_limits,
)

__all__ = [
    "METER",
    "Assembly",
    "AssemblyStep",
    "BringUp",
    "BringUpStep",
    "Cause",
    "JudgedReading",
    "Read",
    "SupplyLimits",
    "TakenReadings",
    "assembly",
    "bring_up",
    "judge_reading",
    "mode_currents",
    "sheet_csv",
    "sheet_text",
    "supply_limits",
    "take_readings",
]

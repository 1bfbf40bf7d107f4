"""The figures that decide something, as docs/MODELS.md gives them: a change of one is a change of what the tool says."""

from __future__ import annotations

import importlib
import unittest

from ember_core.battery.chemistries import CHEMISTRIES
from ember_core.making import MAKING
from ember_core.thermal.materials import CELL_MAX_C, MATERIALS

DECIDING: dict[str, dict[str, object]] = {
    "charging.charge": {"CHARGING_C": (0.0, 45.0), "INDOORS_C": (10.0, 30.0), "FULL_ENOUGH": 0.7, "FAR_BELOW": 0.9, "TYPICAL_SLOW": {"power": 0.3, "energy": 1.2}, "RELAXES_S": 900.0, "SLOW_KNOWN": (0.3, 0.8), "MOST_SLOW": 1.5, "FELT_SOONER": 0.4,
                 "NICKEL_TAKES": ((0.0, 0.95), (0.8, 0.95), (1.0, 0.7)), "NICKEL_SLOW": ((0.1, 0.73), (0.5, 1.0)), "CURRENT_SPREAD": 0.10, "RECEIVER_EFFICIENCY": 0.75, "ADAPTER_EFFICIENCY": 0.8, "MOST_DAYS": 60.0},
    "charging.solar": {"SOLAR_CONSTANT": 1367.0, "DERATING": 0.75, "GROUND": 0.2},
    "solved.gadget": {"WORKS_LIKE": 0.5},
    "supply.converters": {"LEAST_INPUT_V": 0.05, "BODY_DIODE_V": 0.4},
    "load.day": {"SLOTS": 48, "SECONDS_PER_DAY": 86400.0, "BAD_DAY": 0.95},
    "runtime.ends": {"SECONDS_PER_YEAR": 31557600.0, "LEAST_SHELF_YEARS": 1.0},
    "runtime.limits": {"DARK": 0.1},
    "thermal.shell": {"MOST_RISE_K": 150.0, "TABLE_W_PER_K_M2": 3.0, "HAND_SHARE": 0.35, "HAND_W_PER_K_M2": 60.0, "HAND_C": 34.0, "CLOTHES_W_PER_K_M2": 4.0,
                      "SUN_W_PER_M2": 1000.0, "FILM_SPREAD": 1.25, "GAP_MM": (1.0, 15.0), "INSIDE_EMISSIVITY": 0.8, "PART_FILM": 10.0, "FOLLOWS": 0.5, "FILM_RISE_K": 8.0, "FILM_C_INSIDE": 40.0, "CHIP_MM2": 150.0, "CHIP_MM": 4.0, "USUAL_BOARD_M2": 10e-4,
                      "BOARD_W_PER_K": 0.014, "BOARD_G_PER_M2": 3000.0, "PACKAGE_K_PER_W": 10.0, "SPOT_FILM": 18.0, "SPREADS": 10.0},
    "thermal.materials": {"SPECIFIC_HEAT_INSIDE": 0.9},
    "findings.charge.refill": {"FLOAT_MOST": 1.012, "LEAK_SHARE": 0.2, "LED_SHARE": 0.2, "HEADROOM_V": 0.2, "BANK_SLEEPS_A": 0.06, "RELIABLE_C": 0.3,
                        "NICKEL_MOST": 1.6, "NICKEL_GENTLE_C": 0.12, "GENTLE_C": 0.5, "HARD_C": 0.7},
    "findings.charge.sun": {"AUTONOMY_D": 5.0, "LEAST_AUTONOMY_D": 1.0, "OPEN_PANEL": 1.22, "PANEL_W_PER_CM2": 0.022},
    "findings.battery.protection": {"SPARE": 1.2, "FAR_ABOVE": 3.0, "WAY_ABOVE": 6.0, "CELLS_STAND": 2.0, "FAR_BELOW_V": 0.3, "BLOWS_AT": 2.0, "JOINED_RATE": 2.0},
    "findings.battery.cells": {"IMPOSSIBLE": 1.25, "USUAL_SHARE": 0.7, "NAME_DIFFERS": 0.15},
    "findings.charge.windows": {"ASK_ABOVE_V": 5.5},
    "findings.ratings": {"SPARE": 0.9, "HARD": 1.2, "REVERSE_A": 1e-6, "OFTEN": 0.6},
    "findings.supply.peaks": {"MOST_BULK_F": 0.01, "STALLS_LIKE": 3.0},
    "load.operating_points": {"LASTS_S": 0.01, "CARRIED_V": 0.1},
    "solved.hottest": {"SOFTENING_MARGIN_C": 10.0},
    "solved.warmth": {"CELL_CHARGE_MAX_C": 45.0, "USUAL_GAP_MM": 5.0, "GAP_SPREAD": 1.5, "MOST_DIRECT": 0.9},
    "solved.nodes": {"PART_MAX_C": 85.0, "CHARGER_MAX_C": 125.0, "SPLIT": {"light": (0.75, 0.0), "led": (0.85, 0.0), "sound": (0.17, 0.82), "motor": (0.6, 0.0)},
                     "SOUND_INSIDE": 0.99, "BOARD_FOLLOWS": 1.0},
    "solved.places": {"BEYOND": 0.7},
    "thermal.neighbours": {"SPOT_PEAK": 1.35},
    "findings.fit.boards": {"SOLDER_MM": 1.0, "OFF_HOLE_MM": 0.3, "WORTH_MM": 0.5},
    "findings.fit.case": {"HALF_WAVE_MM": 62.0, "SPLASHED_GAP_MM": 0.3, "BEZEL_MM": 1.0},
    "findings.fit.inside": {"SHORT_MM": 1.0, "PLUG_REACH_MM": 1.5, "OFF_MM": 0.5},
    "findings.fit.posts": {"JOINED_MM": 0.05, "REACH_MM": 0.5},
    "enclosure.joints": {"RIM_MM": 2.0, "LEAST_RIM_MM": 0.8, "GROOVE_WIDER": 1.25, "TONGUE_MM": 1.2, "RIDGE_MM": 0.6, "RIDGE_HIGH_MM": 1.5},
    "enclosure.holding": {"LEAST_STANDOFF_MM": 1.5},
    "battery.pack": {"SALVAGED_SHARE": 0.7, "SALVAGED_OHM": 2.0, "SALVAGED_TOLERANCE": (-0.4, 0.3), "MEASURED_TOLERANCE": (-0.03, 0.03), "ROW": 4},
    "solved.droop": {"JUDGED_AT": 0.2, "USUAL_ESR_OHM": 0.05, "SPARE": 0.8, "USUAL_DROOP": 0.03},
    "runtime.uncertainty": {"AT_EVERY_EDIT": 256, "ON_DEMAND": 1024, "RESISTANCE": 1.4, "MEASURED_RESISTANCE": 1.1, "SELF_DISCHARGE": 1.6,
                 "SHELF": 1.4, "NEAR_SHELF": 0.4, "RATE": 1.4, "RATE_UNTOLD": 2.5, "COLD_RESISTANCE": 1.6, "GENTLE_C": 0.5, "AGEING": 2.0, "STAGE_LOSS": 1.25, "QUIESCENT": 1.5},
    "runtime.spans": {"TAIL": 10.0},
    "runtime.in_the_cold": {"COLD": 1.5, "COLD_LEAST": 0.001, "COLD_MOST": 2.2, "COLD_MEASURED": 1.15, "BETTER": 0.06},
    "traces.rundown": {"COLD_V": 0.06, "TYPICAL_V": 0.11, "MEASURED_V": 0.015},
    "choosing.sleeping": {"WORTH": 0.02, "MOST_SWITCHED": 3},
    "studies.trials": {"SAME": 0.002, "SAME_CHARGE": 0.02},
    "measures.selection": {"SAME_VOLTAGE": 0.02, "MOST_WAYS": 3},
    "calculators.cell": {"AGREES": 0.03, "CONTRADICTS": 2.0},
    "calculators.divider": {"CLAMP_V": 0.5},
    "calculators.led": {"MODERN_MCD_PER_MA": 60.0},
    "measures.awake": {"SHORT_EVENT_S": 60.0, "SHORTER": 0.5, "LOCK": 0.05},
    "findings.runtime.awake": {"AWAKE_SHARE": 0.3, "AWAKE_A": 0.04, "AWAKE_S": 1.0, "OFTEN_S": 120.0, "OFTEN_SHARE": 0.5,
                       "ENOUGH_S": 600.0, "BOOT_S": 5.0, "BOOT_SHARE": 0.1, "ACCIDENT_SHARE": 0.05, "UNSAVED_S": 600.0,
                       "SAVE_EVERY_S": 60.0, "LOOP_LEFT": 0.02},
    "findings.battery.bank": {"LITTLE_LEFT": 0.6, "PULSE_SHARE": 0.4, "PULSE_S": 0.5, "PULSE_ABOVE": 1.2, "MOST_PARTS": 1000},
    "findings.battery.pack": {"STRANDED": 0.35, "SAME_WINDOW": 0.15, "BENCH_STRANDED": 0.1, "BENCH_SHORTER": 0.85, "FILM_BELOW_A": 2e-5,
                         "FILM_PEAK_A": 5e-3, "MOST_WAYS": 4, "STIFF_POINTS": 101},
    "findings.charge.charger": {"TO_THE_LIMIT": 1.001},
    "findings.draw.parts": {"SHORT_OF_GOAL": 0.2, "PARASITIC_SHARE": 0.10, "BOARD_SLEEPS_A": (1e-3, 20e-3), "LED_SHARE": 0.05, "LIGHT_SHARE": 0.05,
                      "LOW_EFFICACY_MCD_PER_MA": 20.0, "DISPLAY_SHARE": 0.25, "BARER": 0.1},
    "findings.supply.feeds": {"SAME_VOLTAGE": 0.02, "PIN_ABOVE_SUPPLY_V": 0.3, "LEAK_MATTERS_A": 1e-7},
    "findings.fit.bodies": {"MOST_GAPS": 12, "ENOUGH_SWELLING": 0.1, "SPARE_MM": 0.01},
    "findings.charge.heat": {"SPARE_C": 2.0, },
    "findings.draw.sleep": {"STAYS_ON_SHARE": 0.05, "OWN_SHARE": 0.10, "PULL_SHARE": 0.05, "WEAK_PULL_OHM": 1e6, "SOFT_AGAINST_HARD": 0.5, "AWAKE_LIKE": 0.5},
    "making": {"HEAD_MM": {"M2": (3.8, 1.2), "M2.5": (4.7, 1.5), "M3": (5.5, 1.65), "M4": (8.4, 2.7)}, "PASSES_MM": {"M2": 2.2, "M2.5": 2.7, "M3": 3.2, "M4": 4.3}},
    "findings.supply.stages": {"REGULATED_ENOUGH": 0.999, "DROPOUT_MATTERS_ABOVE": 0.05, "HEADROOM": 0.95, "WORTH_IT": 1.01, "EARLY": 0.35},
}  # fmt: skip


class Deciding(unittest.TestCase):
    def test_each_is_as_documented(self) -> None:
        for module, values in DECIDING.items():
            found = importlib.import_module(f"ember_core.{module}")
            for name, value in values.items():
                self.assertEqual(getattr(found, name), value, f"{module}.{name}")

    def test_materials(self) -> None:
        """Softens at [degC], density [g/cm3], conductivity [W/(m K)]."""
        self.assertEqual(
            {name: (m.softens_c, m.density, m.conductivity) for name, m in MATERIALS.items()},
            {
                "PLA": (58, 1.24, 0.13), "PETG": (75, 1.27, 0.20), "ABS": (98, 1.04, 0.18), "ASA": (98, 1.07, 0.18), "nylon": (80, 1.10, 0.25), "TPU": (80, 1.21, 0.20),
                "resin": (60, 1.18, 0.20), "polycarbonate": (130, 1.20, 0.20), "wood": (200, 0.70, 0.15), "aluminium": (500, 2.70, 160.0),
                "steel": (500, 7.85, 45.0),
            },
        )  # fmt: skip

    def test_cells_in_the_heat_and_clearances(self) -> None:
        own = {"super-capacitor": (-40.0, 65.0), "lead-acid": (-15.0, 40.0), "lithium-titanate": (-30.0, 55.0)}
        for name, data in CHEMISTRIES.items():
            self.assertEqual(data.charged_c, own.get(name, (0.0, 45.0)), name)
        self.assertEqual(sorted(CELL_MAX_C.values()), [50, 50, 54, 54, 60, 60, 60, 60, 60, 60, 60, 65, 70, 85])
        self.assertEqual(CELL_MAX_C["alkaline"], 54)
        held = {process: (m.free, m.sliding, m.press, m.least, m.wall, m.least_wall) for process, m in MAKING.items()}
        usual = {
            "filament": (0.3, 0.2, 0.1, 0.2, 1.2, 0.8), "resin": (0.15, 0.1, 0.05, 0.1, 1.0, 0.6),
            "milled": (0.15, 0.1, 0.0, 0.05, 1.0, 0.5), "ready-made": (0.5, 0.3, 0.1, 0.3, 1.0, 0.5),
        }  # fmt: skip
        self.assertEqual(held, usual)

"""What is typed, imported or pasted wrongly where safety is decided: refused at its field, or evaluated all the same."""

import copy
import json
import math
from typing import Any
from unittest import TestCase

from ember_core import DocumentError, evaluate, read_design

from .test_refill import gadget


class Refused(TestCase):
    def setUp(self) -> None:
        self.document: dict[str, Any] = json.loads(gadget(1).model_dump_json())

    def path(self, change: dict[str, Any]) -> str:
        """Where a document whose charger has something else is refused; nothing where it is taken."""
        document = copy.deepcopy(self.document)
        document["charger"] |= change
        try:
            evaluate(read_design(json.dumps(document).encode()))
        except DocumentError as error:
            return error.problems[0].path
        return ""

    def test_panels(self) -> None:
        for watts in (0, -1, 501, 1e9):
            panel = {"port": {"kind": "solar", "panel": {"peak_w": watts, "area_cm2": 100}}}
            self.assertEqual(self.path(panel), "/charger/port/panel/peak_w", watts)
        self.assertEqual(self.path({"port": {"kind": "solar", "panel": {"peak_w": 0.001, "area_cm2": 1}}}), "")

    def test_port_voltages(self) -> None:
        for volts in (0, -5, None, "five", 1000):
            self.assertEqual(self.path({"port_v": volts}), "/charger/port_v", volts)
        del self.document["charger"]["port_v"]
        self.assertEqual(self.path({}), "")  # 5 V, as of a usual port

    def test_most_input(self) -> None:
        for volts in (0, -1, 101, 1e6):
            self.assertEqual(self.path({"input_max_v": volts}), "/charger/input_max_v", volts)
        self.assertEqual(self.path({"input_max_v": None}), "")

    def test_not_a_number(self) -> None:
        for wrong in (math.nan, math.inf, -math.inf):
            self.document["charger"]["input_max_v"] = wrong
            with self.assertRaises(DocumentError) as caught:
                read_design(json.dumps(self.document).encode())
            self.assertIn("not a number in JSON", caught.exception.problems[0].message)


class Two(TestCase):
    def test_of_two_protections_the_first_to_trip_counts(self) -> None:
        """One in the pack, a second one in the supply: what trips is the weaker one, and one of them is enough."""
        document = json.loads(gadget(1).model_dump_json())
        second = {"type": "pass", "id": "second", "name": "Second one", "input": "battery", "role": "protection"}
        document["supply"]["stages"] = [second | {"resistance_ohm": 0.05, "limit_a": 1e-6}]
        document["supply"]["rails"][0]["feed"] = "second"
        document["battery"]["protection"] = {"overcurrent_a": 3.0}
        trips = {f.code for f in evaluate(read_design(json.dumps(document).encode())).findings}
        self.assertNotIn("no-protection", trips)
        self.assertIn("mode-fails-at-once", trips)  # it trips, and nothing works behind it
        document["supply"]["stages"][0]["limit_a"] = 2.0
        calm = {f.code for f in evaluate(read_design(json.dumps(document).encode())).findings}
        self.assertFalse(calm & {"no-protection", "protection-trips", "mode-fails-at-once"})

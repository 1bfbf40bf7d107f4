"""One table of units and one way of rounding: the interface reads and shows figures as the core does."""

from __future__ import annotations

import json
import math
import random
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import Any
from unittest import TestCase

from ember_core.quantities import QuantityError, parse_quantity, show, units_table

WEB = Path(__file__).resolve().parent.parent / "web"
RUN = """
import { pathToFileURL } from "node:url";
const [folder, given] = process.argv.slice(2);
const { readFileSync } = await import("node:fs");
const { show } = await import(pathToFileURL(`${folder}/format.js`));
const { readPlainly } = await import(pathToFileURL(`${folder}/reading.js`));
const tasks = JSON.parse(readFileSync(given, "utf8"));
console.log(JSON.stringify({
  shown: tasks.show.map(([value, unit]) => show(value, unit)),
  read: tasks.read.map(([text, dimension]) => readPlainly(text, dimension)),
}));
"""


class Units(TestCase):
    def interface(self, shown: list[Any], read: list[Any]) -> dict[str, list[Any]]:
        """What the interface's own functions make of values and texts."""
        node, npx = shutil.which("node"), shutil.which("npx")
        assert node and npx
        with tempfile.TemporaryDirectory() as holder:
            folder = Path(holder)
            for name in ("format", "reading"):
                subprocess.run([npx, "vite", "build", "--logLevel", "error", "--emptyOutDir", "false", "--ssr", f"src/ui/{name}.ts",
                                "--outDir", str(folder)], cwd=WEB, check=True, capture_output=True)  # fmt: skip
            (folder / "package.json").write_text('{"type": "module"}')
            (folder / "run.js").write_text(RUN)
            (folder / "tasks.json").write_text(json.dumps({"show": shown, "read": read}))
            done = subprocess.run([node, str(folder / "run.js"), str(folder), str(folder / "tasks.json")],
                                  check=True, capture_output=True, text=True)  # fmt: skip
        answer: dict[str, list[Any]] = json.loads(done.stdout)
        return answer

    def test_figures_are_shown_and_read_alike(self) -> None:
        choose = random.Random(4)
        spans = {"A": (-9, 2), "V": (-3, 2), "W": (-9, 3), "Ω": (-3, 9), "Ah": (-6, 3), "Wh": (-3, 3), "F": (-9, 1), "s": (-3, 9.5), "h": (-3, 6),
                 "%": (-3, 2), "share": (-5, 0), "mm": (-1, 3), "g": (-1, 4), "°C": (-1, 2), "mcd": (0, 5), "": (-3, 5)}  # fmt: skip
        values = [(10 ** choose.uniform(*span), unit) for unit, span in spans.items() for _ in range(150)]
        values += [(-v, unit) for v, unit in values if unit in ("A", "V", "°C")]
        values += [(0.0, unit) for unit in spans] + [
            (0.9996, "A"),
            (0.9994, "A"),
            (1e-13, "A"),
            (3600.0, "s"),
            (3599.0, "s"),
            (99.5, "%"),
            (0.05, "%"),
        ]
        texts = [(self._typed(choose, number, unit), dimension) for dimension, kind in units_table().items()
                 for unit in kind["units"] for number in self._numbers(choose)]  # type: ignore[attr-defined]  # fmt: skip
        texts += [
            (t, "charge")
            for t in (
                "1,000 mAh",
                "1.000 mAh",
                "3.7 Wh",
                "600",
                "600 mA",
                "1 200 mAh",
                "½ Ah",
                "-1 Ah",
                "1e3 mAh",
                "nonsense",
                "",
            )
        ]
        texts += [(t, "time") for t in ("1 h 30 min", "1:30", "1/2 h", "90 s", "2 weeks", "100-140 s")]
        found = self.interface([list(v) for v in values], [list(t) for t in texts])
        for (value, unit), shown in zip(values, found["shown"], strict=True):
            self.assertEqual(shown, show(value, unit), (value, unit))
        read = 0
        for (text, dimension), there in zip(texts, found["read"], strict=True):
            try:
                here: float | None = parse_quantity(text, dimension)  # type: ignore[arg-type]
            except QuantityError:
                here = None
            if there is not None:
                read += 1
                assert here is not None, (text, dimension, there)
                self.assertTrue(
                    math.isclose(here, there, rel_tol=1e-11, abs_tol=1e-300), (text, dimension, here, there)
                )
        self.assertGreater(read, len(texts) // 2)

    def _numbers(self, choose: random.Random) -> list[str]:
        return [
            "0",
            "1",
            "12.5",
            "1.000",
            "1000",
            f"{choose.uniform(0, 100):.3g}",
            f"-{choose.uniform(0, 40):.2f}",
            "0.05",
        ]

    def _typed(self, choose: random.Random, number: str, unit: str) -> str:
        return choose.choice(
            (
                f"{number} {unit}",
                f"{number}{unit}",
                f" {number}\u202f{unit} ",
                f"{number.replace('-', '−')}\u00a0{unit}",
            )
        ).rstrip(" ")

"""The examples in the docstrings of the core are run: what they tell is so."""

from __future__ import annotations

import ast
import doctest
import importlib
import pkgutil
import unittest
from pathlib import Path

import ember_core

CORE = Path(ember_core.__file__).parent
MODELS = (
    "battery", "bringup", "calculators", "charging", "enclosure", "load", "planning", "quantities", "runtime", "solved", "supply", "thermal", "traces",
    "wiring",
)  # fmt: skip


class Examples(unittest.TestCase):
    def test_every_example_is_so(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(ember_core.__path__, "ember_core."):
            if module.name.endswith("__main__"):
                continue
            found = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(found.failed, 0, module.name)
            tried += found.attempted
        self.assertGreaterEqual(tried, 1000)

    def test_every_public_function_of_a_model_has_one(self) -> None:
        seen, without = 0, []
        for file in sorted(f for room in MODELS for f in (CORE / room).rglob("*.py")):
            for node in ast.parse(file.read_text()).body:
                if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and node.name != "main":
                    seen += 1
                    if ">>>" not in (ast.get_docstring(node) or ""):
                        without.append(f"{file.relative_to(CORE)}: {node.name}")
        self.assertEqual(without, [])
        self.assertGreater(seen, 180)


if __name__ == "__main__":
    unittest.main()

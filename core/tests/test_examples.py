"""The examples in the docstrings of the core are run: what they tell is so."""

from __future__ import annotations

import doctest
import importlib
import pkgutil
import unittest

import ember_core


class Examples(unittest.TestCase):
    def test_every_example_is_so(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(ember_core.__path__, "ember_core."):
            if module.name.endswith("__main__"):
                continue
            found = doctest.testmod(importlib.import_module(module.name))
            self.assertEqual(found.failed, 0, module.name)
            tried += found.attempted
        self.assertGreaterEqual(tried, 600)


if __name__ == "__main__":
    unittest.main()

"""The package's own description: its examples run as they stand."""

from __future__ import annotations

import contextlib
import io
import os
import re
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[2]


class Readme(unittest.TestCase):
    def test_the_examples_run(self) -> None:
        blocks = re.findall(r"```python\n(.*?)```", (ROOT / "core" / "README.md").read_text("utf-8"), re.DOTALL)
        self.assertEqual(len(blocks), 2)
        shown, names, before = io.StringIO(), dict[str, object](), Path.cwd()
        os.chdir(ROOT)
        try:
            with contextlib.redirect_stdout(shown):
                for block in blocks:
                    exec(block, names)
        finally:
            os.chdir(before)
        self.assertRegex(shown.getvalue(), r"Runtime: \d+ h, \d+ to \d+\n")
        self.assertRegex(shown.getvalue(), r": \+\d+ h\n")


if __name__ == "__main__":
    unittest.main()

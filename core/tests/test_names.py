"""Results and documents are called by their names in the API, so no two may share one."""

from __future__ import annotations

import re
import unittest
from collections import defaultdict
from pathlib import Path

CORE = Path(__file__).resolve().parents[1] / "ember_core"
_RESULT = re.compile(r"^@record\nclass (\w+)", re.MULTILINE)
_DOCUMENT = re.compile(r"^class (\w+)\((?:Model|BaseModel|_Strict)\)", re.MULTILINE)


class Names(unittest.TestCase):
    def test_each_is_one(self) -> None:
        found: defaultdict[str, list[str]] = defaultdict(list)
        for file in CORE.rglob("*.py"):
            text = file.read_text()
            for name in (*_RESULT.findall(text), *_DOCUMENT.findall(text)):
                found[name].append(str(file.relative_to(CORE)))
        self.assertGreater(len(found), 150)
        self.assertEqual({n: f for n, f in found.items() if len(f) > 1}, {})


if __name__ == "__main__":
    unittest.main()

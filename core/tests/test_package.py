"""The core as a package of its own: whatever lies in it goes along, and whatever it imports is asked for."""

from __future__ import annotations

import ast
import sys
import tomllib
import unittest
from fnmatch import fnmatch
from pathlib import Path

CORE = Path(__file__).resolve().parents[1]
PACKAGE = CORE / "ember_core"


class Package(unittest.TestCase):
    def setUp(self) -> None:
        self.told = tomllib.loads((CORE / "pyproject.toml").read_text())

    def test_every_file_goes_along(self) -> None:
        patterns = [p.removeprefix("**/") for p in self.told["tool"]["setuptools"]["package-data"]["ember_core"]]
        files = [f for f in PACKAGE.rglob("*") if f.is_file() and f.suffix not in (".py", ".pyc")]
        self.assertGreater(len(files), 20)
        self.assertEqual(
            [str(f.relative_to(PACKAGE)) for f in files if not any(fnmatch(f.name, p) for p in patterns)], []
        )

    def test_every_import_is_asked_for(self) -> None:
        asked = {d.split(">")[0].replace("-", "_").lower() for d in self.told["project"]["dependencies"]} | {
            "odf"
        }  # of odfpy
        used = set()
        for file in PACKAGE.rglob("*.py"):
            for node in ast.walk(ast.parse(file.read_text())):
                names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
                names += [node.module or ""] if isinstance(node, ast.ImportFrom) and not node.level else []
                used |= {n.split(".")[0].lower() for n in names}
        used -= {n.lower() for n in sys.stdlib_module_names}
        self.assertIn("numpy", used)
        self.assertEqual(used - asked, set())


if __name__ == "__main__":
    unittest.main()

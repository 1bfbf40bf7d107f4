"""The documents say what is so: each path and each command that they name is there, and each link leads somewhere."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]
DOCS = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", ROOT / "CHANGELOG.md", ROOT / "core/README.md", *sorted((ROOT / "docs").glob("*.md"))]  # fmt: skip
WITHIN = ("", "core/ember_core", "core/tests", "server", "web/src", "docs")  # where a path may begin
NO_PATHS = re.compile(
    r"^/api/|^frugal-ember|^\d+/|^manifest\.json$|^EMBER_|^var/"
)  # routes, formats, what is in an archive, what running makes
PATH = re.compile(r"`([\w.@-]+(?:/[\w.@-]+)+|[\w-]+\.(?:py|md|json|tsx?|xz))`")


class Documents(TestCase):
    def test_each_path_is_there(self) -> None:
        named = 0
        for document in DOCS:
            for path in PATH.findall(document.read_text("utf-8")):
                if NO_PATHS.match(path):
                    continue
                named += 1
                found = any((ROOT / place / path).exists() for place in WITHIN)
                found = found or any(True for top in ("core", "server", "standins", "web/src", "ops", "e2e") for _ in (ROOT / top).glob(f"**/{path}"))  # fmt: skip
                with self.subTest(document.name, path=path):
                    self.assertTrue(found)
        self.assertGreater(named, 60)

    def test_each_command_is_one(self) -> None:
        shown = subprocess.run([sys.executable, str(ROOT / "ember"), "--help"], capture_output=True, text=True, check=True)  # fmt: skip
        commands = set(re.findall(r"^ {4}([a-z]+)\b", shown.stdout, re.MULTILINE))
        named = {c for d in DOCS for c in re.findall(r"`\./ember ([a-z]+)", d.read_text("utf-8"))}
        self.assertGreater(len(named), 10)
        self.assertLessEqual(named, commands)
        readme = (ROOT / "README.md").read_text("utf-8")
        self.assertEqual({c for c in commands if f"./ember {c}" not in readme}, set())

    def test_each_link_leads_somewhere(self) -> None:
        for document in DOCS:
            for link in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", document.read_text("utf-8")):
                with self.subTest(document.name, link=link):
                    self.assertTrue("://" in link or (document.parent / link).exists())

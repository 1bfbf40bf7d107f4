"""Which test runs which lines of the core, and how long it takes: so that a fault is shown to the tests that pass by it, the quickest first.

Read once with `coverage`, kept under `var/lines/`, one file for each test module, made anew when the core or the tests have changed.
"""

from __future__ import annotations

import hashlib
import json
import subprocess
import sys
import time
import unittest
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "core" / "ember_core"
KEPT = ROOT / "var" / "lines"
# what reads tables and constants as they stand, and so runs no line of theirs
READERS = ("core.tests.test_constants.", "core.tests.test_golden_answers.Answers.test_of_tables")


class _Timed(unittest.TestResult):
    """Tells the coverage which test runs, and keeps how long each took."""

    def __init__(self, coverage: Any) -> None:
        super().__init__()
        self.coverage, self.seconds = coverage, {}

    def startTest(self, test: unittest.TestCase) -> None:
        super().startTest(test)
        self.coverage.switch_context(test.id())
        self.began = time.process_time()

    def stopTest(self, test: unittest.TestCase) -> None:
        self.seconds[test.id()] = time.process_time() - self.began
        self.coverage.switch_context("")
        super().stopTest(test)


def read(module: str) -> dict[str, Any]:
    """In a process of its own: the lines that each test of a module runs, {"seconds": {test: s}, "lines": {file: {line: [test]}}}."""
    from coverage import Coverage

    coverage = Coverage(source=[str(CORE)], data_file=None, config_file=False, messages=False)
    coverage.start()
    result = _Timed(coverage)
    unittest.defaultTestLoader.loadTestsFromName(f"core.tests.{module}").run(result)
    coverage.stop()
    data = coverage.get_data()
    lines = {
        str(Path(file).relative_to(CORE)): {
            line: [c for c in contexts if c]
            for line, contexts in data.contexts_by_lineno(file).items()
            if any(contexts)
        }
        for file in data.measured_files()
    }
    return {"seconds": result.seconds, "lines": lines}


def modules() -> list[str]:
    return sorted(p.stem for p in Path(__file__).parent.glob("test_*.py"))


@cache
def _core() -> bytes:
    files = sorted([*CORE.rglob("*.py"), *CORE.rglob("*.json")])
    return b"".join(hashlib.sha256(f.read_bytes()).digest() for f in files)


def _key(module: str) -> str:
    """Of the core and the tests of a module as they are."""
    return hashlib.sha256(_core() + (Path(__file__).parent / f"{module}.py").read_bytes()).hexdigest()[:16]


def _made(module: str) -> dict[str, Any]:
    file = KEPT / f"{module}.json"
    found: dict[str, Any] = json.loads(file.read_text()) if file.exists() else {}
    if found.get("key") != _key(module):
        KEPT.mkdir(parents=True, exist_ok=True)
        subprocess.run(
            [sys.executable, "-m", "core.tests.lines", module, str(file)], cwd=ROOT, capture_output=True, check=True
        )
        found = json.loads(file.read_text())
    return found


class Lines:
    """What all test modules tell."""

    def __init__(self, workers: int = 2) -> None:
        self.seconds: dict[str, float] = {}
        self.of: dict[str, dict[int, set[str]]] = defaultdict(lambda: defaultdict(set))
        with ThreadPoolExecutor(max_workers=workers) as pool:
            for told in pool.map(_made, modules()):
                self.seconds |= told["seconds"]
                for file, lines in told["lines"].items():
                    for line, tests in lines.items():
                        self.of[file][int(line)] |= set(tests)

    def tests(self, file: str, at: range, most_s: float, *, read: bool) -> list[str]:
        """Those that run one of these lines, the quickest first, as many as that long allows; of what only runs when a module is read, first those that read
        what stands there, then all that run anything of it."""
        lines = self.of.get(file, {})
        found: set[str] = set().union(*(lines.get(line, set()) for line in at))
        taken, whole = [], 0.0
        if read:
            found = set().union(*lines.values())
            taken = [t for t in self.seconds if t.startswith(READERS)]
        for test in sorted(found - set(taken), key=lambda t: self.seconds[t]):
            whole += self.seconds[test]
            if whole > most_s:
                break
            taken.append(test)
        return taken


if __name__ == "__main__":
    Path(sys.argv[2]).write_text(json.dumps({"key": _key(sys.argv[1]), **read(sys.argv[1])}))

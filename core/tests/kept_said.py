"""What is found in the gadgets that tests are made of, kept: a change of any sentence, place or severity is noticed wherever such a gadget is judged,
whichever finding the test asks for.

`python -m core.tests.kept_said` runs the tests that judge gadgets and keeps what is found anew; look at the difference of `data/said.json`. Of each gadget a
digest of its document, of each finding one of its code, place, severity and sentence. A gadget that a test judges under several limits has a list for each;
one that is not kept yet is not compared.
"""

from __future__ import annotations

import hashlib
import json
import sys
import unittest
from collections.abc import Iterable
from functools import cache
from pathlib import Path

from ember_core import Design
from ember_core.catalogue import Catalogue, built_in
from ember_core.findings import Found

FILE = Path(__file__).parent / "data" / "said.json"
recorded: dict[str, list[list[str]]] | None = None


def _digest(text: str, signs: int) -> str:
    return hashlib.sha256(text.encode()).hexdigest()[:signs]


@cache
def kept() -> dict[str, list[list[str]]]:
    found: dict[str, list[list[str]]] = json.loads(FILE.read_text()) if FILE.exists() else {}
    return found


def moved(design: Design, catalogue: Catalogue, found: Iterable[Found]) -> list[str]:
    """The findings that were not there, or not so, when it was kept; and how many are gone."""
    of = "" if catalogue is built_in() else ",".join(e.key for e in catalogue.entries)
    key = _digest(
        design.model_dump_json(exclude_defaults=True) + of, 16
    )  # which a new field with a default does not change
    told = {_digest(text, 8): text for text in (f"{f.code} {f.where} {f.severity}: {f.sentence}" for f in found)}
    if recorded is not None:
        if sorted(told) not in recorded.setdefault(key, []):
            recorded[key].append(sorted(told))
        return []
    if key not in kept() or sorted(told) in kept()[key]:
        return []
    before = min(kept()[key], key=lambda one: len(set(one) ^ set(told)))
    gone = len(set(before) - set(told))
    return [text for digest, text in told.items() if digest not in before] + ([f"{gone} gone"] if gone else [])


def main() -> int:
    from . import kept_said  # noqa: PLW0406  the one that the tests import

    kept_said.recorded = {}
    names = [
        p.stem
        for p in sorted(Path(__file__).parent.glob("test_*.py"))
        if "seen(" in p.read_text() or "Traps" in p.read_text()
    ]
    suite = unittest.defaultTestLoader.loadTestsFromNames([f"core.tests.{name}" for name in names])
    result = unittest.TextTestRunner(verbosity=0).run(suite)
    rows = ",\n".join(f'"{key}": {json.dumps(told)}' for key, told in sorted(kept_said.recorded.items()))
    FILE.write_text("{\n" + rows + "\n}\n")
    print(f"{len(kept_said.recorded)} gadgets kept")
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main())

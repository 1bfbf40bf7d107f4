"""Evaluations as they were: of the demos with every figure, of 200 random gadgets as sums that any change moves.

`python -m core.tests.golden` writes the file anew and says what moved: after a change of the model that is meant, or of the
catalogue. Figures that moved want another `VERSION` of the core and a line in CHANGELOG.md; with `--same-version` they move within one that nobody has
yet. Keep what it prints for the commit's message.
"""

from __future__ import annotations

import json
import lzma
import math
import re
import sys
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ember_core import VERSION, Design, build_design, evaluate
from ember_core.figures import as_json

from .randoms import random_design

FILE = Path(__file__).parent / "data" / "golden.json.xz"
DEMOS = Path(__file__).parents[2] / "demo"
RANDOM_DESIGNS = 200
TOLERANCE = 1e-9
NOTHING = 1e-11  # a loss so small is what rounding leaves of two large figures
NO_SHARE = 1e-7
ROUNDING = 1e-15
Evaluated = dict[str, Any]


def leaves(value: Any, path: str = "") -> Iterator[tuple[str, Any]]:
    """Every figure, word and null of a document with its path."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from leaves(inner, f"{path}/{key}")
    elif isinstance(value, list):
        for i, inner in enumerate(value):
            yield from leaves(inner, f"{path}/{i}")
    else:
        yield path, value


def digest(section: Any) -> list[float]:
    """[figures' sum, words' sum] of a part of an evaluation. Each figure stands in with its logarithm, times a weight of its
    place between -1 and 1: a change by a part in a billion anywhere moves the sum by as much."""
    figures: list[float] = []
    words = 0
    for path, value in leaves(section):
        if isinstance(value, bool) or value is None or isinstance(value, str):
            words ^= zlib.crc32(f"{path}={value}".encode())
        elif abs(value) > (NO_SHARE if path.endswith("share") else NOTHING):
            weight = zlib.crc32(path.encode()) / 2**31 - 1
            figures.append(math.copysign(700 + math.log(abs(value)), value) * weight)
    return [math.fsum(figures), words]


def evaluated(design: Design) -> Evaluated:
    result: Evaluated = json.loads(as_json(evaluate(design)))
    return result


def demos() -> dict[str, Evaluated]:
    return {f.stem: evaluated(build_design(json.loads(f.read_text()))) for f in sorted(DEMOS.glob("*.json"))}


def digests(design: Design) -> dict[str, list[float]]:
    return {name: digest(section) for name, section in evaluated(design).items()}


def moved(before: Any, after: Any) -> list[str]:
    """Where two evaluations differ by more than the tolerance, with both values."""
    old, new = dict(leaves(before)), dict(leaves(after))
    found = []
    for path in {**old, **new}:
        a, b = old.get(path, "(missing)"), new.get(path, "(missing)")
        numbers = all(isinstance(x, int | float) and not isinstance(x, bool) for x in (a, b))
        same = math.isclose(a, b, rel_tol=TOLERANCE, abs_tol=ROUNDING) if numbers else a == b
        if not same:
            found.append(f"{path}: {a} -> {b}")
    return found


def read() -> dict[str, Any]:
    found: dict[str, Any] = json.loads(lzma.decompress(FILE.read_bytes()))
    return found


def write() -> None:
    designs = [random_design(seed) for seed in range(RANDOM_DESIGNS)]
    whole = {
        "version": VERSION,
        "demos": demos(),
        "designs": [d.model_dump(mode="json") for d in designs],
        "digests": [digests(d) for d in designs],
    }
    FILE.write_bytes(lzma.compress(json.dumps(whole).encode(), preset=9))


def by_figure(lines: list[str]) -> list[str]:
    """What moved, a line for each kind of figure: how often, and its first move."""
    kinds: dict[str, list[str]] = {}
    for line in lines:
        path, move = line.split(": ", 1)
        kinds.setdefault(re.sub(r"/\d+", "", path.split("/", 2)[-1]), []).append(move)
    return [f"- {kind}: {len(moves)} × ({moves[0]})" for kind, moves in sorted(kinds.items())]


def main() -> int:
    earlier = read() if FILE.exists() else {"demos": {}, "version": ""}
    lines = moved(earlier["demos"], demos())
    if lines and earlier.get("version") == VERSION and "--same-version" not in sys.argv:
        print("\n".join(by_figure(lines)))
        print(f"\nFigures moved and the core is {VERSION} as before: raise VERSION, and say it in CHANGELOG.md.")
        return 1
    write()
    print("\n".join(lines))
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""All that the core says of a design, and shapes that no sentence may have.

`python -m core.tests.said [COUNT]` prints what is said of the demos and of so many random gadgets, each sentence once whatever its figures, to be read.
"""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterator
from typing import Any

from ember_core import Design, evaluate
from ember_core.catalogue import built_in
from ember_core.figures import as_json
from ember_core.measures.bench import TrialBench
from ember_core.studies import answer_intervals, answer_outlook, answer_remedies, answer_savings

from .golden import DEMOS
from .randoms import random_design

NOT_SAID = {"name", "path", "where", "key", "code", "id", "unit", "part", "mode", "rail", "stage", "subject", "finding", "wake", "happens", "text", "formula", "origin", "op", "value", "patch"}  # fmt: skip
SENTENCES = {"sentence", "outcome", "side_effect", "typical_sentence", "cold_sentence", "temperature_sentence", "age_sentence"}  # fmt: skip
FIGURE = r"[<>≤≥]? ?[−-]?\d[\d.,]*(?: (?:[a-zA-ZµΩ°%€/²³·]+)(?: \d+ [a-z]+)?)?"
FORBIDDEN = {
    "nothing to tell": r"\b(nan|inf|None|null|True|False|unknown unknown)\b",
    "the same instead of the same": r"(\b[\w.,%µΩ°]+(?: [\w.,%µΩ°]+){0,3}) (?:instead of|in place of) \1(?=[.,;:]|$)",
    "gets as much as it needs": rf"gets ({FIGURE}) and needs \1(?!\d|\.\d)",
    "about beyond": r"about (?:>|<|at least|at most)",
    "once as much": r"(?<![\d.])1 times as\b",
    "nothing left": r"\b0 (?:A|Ah|mA|mAh|V|mV|h|s|W) left\b",
    "no range": rf"\b({FIGURE}) to \1(?!\d|\.\d)",
    "a word twice": r"\b([a-z]{2,}) \1\b",
    "spaces": r"  | [.,;:!?](?:\s|$)|\.\.(?!\.)|,,|::|\( | \)",
    "an empty place": r"(?:^|\s)(?:''|\"\"|“”)|\{|\}",
    "a figure as Python writes it": r"\d\.\d{5,}|\de[+-]\d",
    "months of whole days": r"\b5\.91 months\b",
    "times nothing": r"(?<![\d.])0 times\b",
    "a label and its own colon": r"stops at: gives",
}


def texts(value: Any, key: str = "") -> Iterator[tuple[str, str]]:
    """(what it is, the text) of everything in an answer that is to be read."""
    if isinstance(value, dict):
        for k, inner in value.items():
            if k not in NOT_SAID:
                yield from texts(inner, k)
    elif isinstance(value, list):
        for inner in value:
            yield from texts(inner, key)
    elif isinstance(value, str) and value.strip():
        yield key, value.replace("\u00a0", " ")


def said_of(design: Design, *, studies: bool) -> Iterator[tuple[str, str]]:
    """All that is said of a design; with `studies` also its ways out, its measures and its outlook."""
    yield from texts(json.loads(as_json(evaluate(design))))
    if studies:
        bench = TrialBench(design, built_in())
        for answer in (answer_remedies(bench), answer_savings(bench), answer_outlook(bench), answer_intervals(bench)):
            yield from texts(json.loads(as_json(answer)))


def wrong_with(kind: str, text: str) -> list[str]:
    """What a text has that none may have."""
    found = [name for name, pattern in FORBIDDEN.items() if re.search(pattern, text)]
    if kind in SENTENCES:
        found += [] if text[-1] in ".!?:)”" else ["no end"]
        found += ["begins small"] if text[0].islower() else []
    return found


def main(count: int) -> None:
    from ember_core import build_design

    known: dict[tuple[str, str], str] = {}
    gadgets = [build_design(json.loads(f.read_text())) for f in sorted(DEMOS.glob("*.json"))]
    for design in [*gadgets, *(random_design(seed) for seed in range(count))]:
        for kind, text in said_of(design, studies=True):
            known.setdefault((kind, re.sub(r"\d[\d.,]*", "#", text)), text)
    for (kind, _), text in sorted(known.items()):
        print(f"{kind}: {text}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 50)

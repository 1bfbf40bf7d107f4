"""How much the tests notice: small faults, one at a time, in the core; the tests that pass by its line run on each (`lines`).

`./ember mutate [--count N] [--seed S] [MODULE ...]`. A fault is one change of one operator, comparison, sign, number or
condition in a module's syntax tree; it is put in place of the module in a process of its own, whose tests stop at the first
that fails. What survives is printed with its line. The faults are drawn evenly over the modules, with a seed.
"""

from __future__ import annotations

import argparse
import ast
import copy
import importlib.abc
import importlib.util
import io
import json
import os
import random
import resource
import subprocess
import sys
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from .lines import Lines

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "core"
LIMIT_S = 240
TESTS_S = 100.0  # of tests at most for one fault
SAME = 1e-6  # what is taken for the same, and a digit that is rounded: three tenths more of it nobody can notice

SWAPS: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Pow: ast.Mult,
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.And: ast.Or, ast.Or: ast.And, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    module: str
    index: int
    line: int
    what: str
    first: int  # of the lines of the statement that it is in
    last: int
    read: bool  # when the module is read, not when a function runs


def _skipped(tree: ast.AST) -> set[int]:
    """Nodes that are no behaviour: annotations, sentences for people, error texts, defaults of fields that are always
    given, budgets (`MOST_...`, `GRID...`), which trade time for nothing that a reader sees, and guards against what rounding leaves (below `SAME`,
    digits of `round`, sizes of caches, widths of a table's columns)."""
    found: set[int] = set()
    for place in (tree, *(n for n in ast.walk(tree) if isinstance(n, ast.ClassDef))):
        for node in getattr(place, "body", []):
            named = [node.targets[0], *getattr(node.targets[0], "elts", [])] if isinstance(node, ast.Assign) else []
            budget = any(getattr(x, "id", "").startswith(("MOST_", "GRID")) for x in named)
            if budget or (isinstance(node, ast.AnnAssign) and isinstance(place, ast.ClassDef)):
                found |= {id(x) for x in ast.walk(node)}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr | ast.Assert | ast.Raise):
            found |= {id(x) for x in ast.walk(node)}
        for name in ("annotation", "returns"):
            part = getattr(node, name, None)
            if isinstance(part, ast.AST):
                found |= {id(x) for x in ast.walk(part)}
        if isinstance(node, ast.AnnAssign):
            found |= {id(x) for x in ast.walk(node.annotation)}
        if isinstance(node, ast.keyword) and node.arg in (
            "title",
            "sentence",
            "note",
            "description",
            "label",
        ):
            found |= {id(x) for x in ast.walk(node)}
        if (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Name)
            and node.func.id in ("show", "Field", "lru_cache")
        ):
            found |= {id(x) for x in ast.walk(node)}
        if isinstance(node, ast.Call) and getattr(node.func, "attr", "") == "set_column":
            found |= {id(x) for x in ast.walk(node)}
        if isinstance(node, ast.Call) and getattr(node.func, "id", getattr(node.func, "attr", "")) == "round":
            found |= {id(x) for x in node.args[1:]}
        if isinstance(node, ast.Constant) and isinstance(node.value, float) and 0 < node.value <= SAME:
            found.add(id(node))
    return found


def _places(tree: ast.AST) -> Iterator[tuple[ast.AST, str, int]]:
    """(node, what would be changed, which of its operators) in a fixed order."""
    skipped = _skipped(tree)
    for node in ast.walk(tree):
        if id(node) in skipped:
            continue
        if isinstance(node, ast.BinOp) and type(node.op) in SWAPS:
            yield node, type(node.op).__name__, 0
        elif isinstance(node, ast.Compare):
            for k, operator in enumerate(node.ops):
                if type(operator) in SWAPS:
                    yield node, type(operator).__name__, k
        elif isinstance(node, ast.BoolOp) or (
            isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.Not)
        ):
            yield node, type(node.op).__name__, 0
        elif (
            isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool)
        ):
            yield node, repr(node.value), 0
        elif isinstance(node, ast.IfExp):
            yield node, "IfExp", 0
        elif (
            isinstance(node, ast.Return) and isinstance(node.value, ast.Constant) and isinstance(node.value.value, bool)
        ):
            yield node, "Return", 0


def _changed(node: ast.AST, k: int) -> None:
    match node:
        case ast.BinOp() | ast.BoolOp():
            node.op = SWAPS[type(node.op)]()
        case ast.Compare():
            node.ops[k] = SWAPS[type(node.ops[k])]()
        case ast.Constant(value=0 | 0.0):
            node.value = 1
        case ast.Constant(value=1) if isinstance(node.value, int):
            node.value = 2
        case ast.Constant():
            assert isinstance(node.value, int | float)
            node.value = node.value + 1 if isinstance(node.value, int) else node.value * 1.3
        case ast.IfExp():
            node.body, node.orelse = node.orelse, node.body
        case ast.UnaryOp():
            node.op = ast.UAdd() if isinstance(node.op, ast.USub) else ast.Not()
            if isinstance(node.op, ast.Not):
                node.operand = ast.UnaryOp(ast.Not(), node.operand)
        case ast.Return():
            assert isinstance(node.value, ast.Constant)
            node.value = ast.Constant(not node.value.value)


def all_modules() -> list[str]:
    """Every module of the core that computes something, by its name within it."""
    root = CORE / "ember_core"
    files = (
        p.relative_to(root)
        for p in root.rglob("*.py")
        if p.name != "__main__.py" and p.parent != root / "catalogue" / "data"
    )
    names = (".".join((f.parent if f.name == "__init__.py" else f.with_suffix("")).parts) for f in files)
    return sorted(name for name in names if name and faults(name))


def path_of(module: str) -> Path:
    place = CORE / "ember_core" / module.replace(".", "/")
    return place / "__init__.py" if place.is_dir() else place.with_suffix(".py")


def faults(module: str) -> list[Fault]:
    tree = ast.parse(path_of(module).read_text())
    statement: dict[int, ast.stmt] = {}
    inside = {id(x) for f in ast.walk(tree) if isinstance(f, ast.FunctionDef) for s in f.body for x in ast.walk(s)}
    for node in ast.walk(tree):  # outer ones first
        if isinstance(node, ast.stmt):
            statement |= {id(x): node for x in ast.walk(node)}
    found = []
    for i, (node, what, _) in enumerate(_places(tree)):
        own = statement[id(node)]
        # of a whole block only what is before its first statement
        inner = [x.lineno for x in ast.iter_child_nodes(own) if isinstance(x, ast.stmt)]
        last = max(min(inner) - 1, own.lineno) if inner else own.end_lineno or own.lineno
        line = getattr(node, "lineno", own.lineno)
        found.append(Fault(module, i, line, what, own.lineno, last, id(node) not in inside))
    return found


def faulty_tree(module: str, index: int) -> ast.AST:
    tree = ast.parse(path_of(module).read_text())
    node, _, k = list(_places(tree))[index]
    _changed(node, k)
    return ast.fix_missing_locations(copy.deepcopy(tree))


class _Loader(importlib.abc.Loader):
    def __init__(self, module: str, index: int) -> None:
        self.module, self.index = module, index

    def exec_module(self, module: Any) -> None:
        code = compile(faulty_tree(self.module, self.index), str(path_of(self.module)), "exec")  # type: ignore[arg-type]
        exec(code, module.__dict__)


class _Finder(importlib.abc.MetaPathFinder):
    def __init__(self, module: str, index: int) -> None:
        self.name, self.loader = f"ember_core.{module}", _Loader(module, index)

    def find_spec(self, name: str, path: Any, target: Any = None) -> Any:
        return (
            importlib.util.spec_from_loader(name, self.loader, origin=str(self.loader.module))
            if name == self.name
            else None
        )


def notices(module: str, index: int, tests: list[str]) -> bool:
    """In the process of one fault: whether any of the tests fails."""
    sys.meta_path.insert(0, _Finder(module, index))
    for name in tests:
        suite = unittest.defaultTestLoader.loadTestsFromName(name)
        if not unittest.TextTestRunner(stream=io.StringIO(), failfast=True).run(suite).wasSuccessful():
            return True
    return False


def _tried(fault: Fault, lines: Lines) -> bool:
    file = path_of(fault.module).relative_to(CORE / "ember_core")
    tests = lines.tests(str(file), range(fault.first, fault.last + 1), TESTS_S, read=fault.read)
    command = [sys.executable, "-m", "core.tests.mutate", "--one", fault.module, str(fault.index)]
    # by processor time, so that a busy machine notices no more; what hangs is noticed
    asked = json.dumps(tests)
    done = subprocess.run(
        command, cwd=ROOT, capture_output=True, check=False, text=True, input=asked, preexec_fn=_limited
    )
    return done.returncode != 0


def _limited() -> None:
    resource.setrlimit(resource.RLIMIT_CPU, (LIMIT_S, LIMIT_S))


def main() -> int:
    parser = argparse.ArgumentParser(prog="ember mutate", description="How many small faults the core's tests notice.")
    parser.add_argument("modules", nargs="*", help="of the core, as findings.supply.stages; all by default")
    parser.add_argument("--count", type=int, default=120)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--workers", type=int, help="processes at once; as many as there are cores by default")
    parser.add_argument("--one", nargs=2, metavar=("MODULE", "INDEX"), help=argparse.SUPPRESS)
    chosen = parser.parse_args()
    if chosen.one:
        return int(notices(chosen.one[0], int(chosen.one[1]), json.load(sys.stdin)))
    choose = random.Random(chosen.seed)
    modules = [m.replace("/", ".") for m in chosen.modules] or choose.sample(all_modules(), len(all_modules()))
    pools = {m: choose.sample(faults(m), len(faults(m))) for m in modules}
    drawn: list[Fault] = []
    while len(drawn) < chosen.count and any(pools.values()):
        for module in modules:
            if pools[module] and len(drawn) < chosen.count:
                drawn.append(pools[module].pop())
    workers = chosen.workers or os.cpu_count() or 2
    lines = Lines(workers)
    noticed: list[bool] = []
    with ThreadPoolExecutor(max_workers=workers) as pool:
        for fault, seen in zip(drawn, pool.map(lambda f: _tried(f, lines), drawn), strict=True):  # as they come
            noticed.append(seen)
            text = path_of(fault.module).read_text().splitlines()[fault.line - 1].strip()
            told = "noticed" if seen else "survived"
            print(
                f"{len(noticed):>4}/{len(drawn)} {told}: {fault.module}:{fault.line} ({fault.what})  {text[:120]}",
                flush=True,
            )
    by_module = {m: [s for f, s in zip(drawn, noticed, strict=True) if f.module == m] for m in modules}
    for module, seen_ones in by_module.items():
        if seen_ones and not all(seen_ones):
            print(f"{module:<26} {sum(seen_ones):>3} of {len(seen_ones)}")
    print(f"noticed: {sum(noticed)} of {len(noticed)} faults, {100 * sum(noticed) / max(len(noticed), 1):.0f} %")
    return 0


if __name__ == "__main__":
    sys.exit(main())

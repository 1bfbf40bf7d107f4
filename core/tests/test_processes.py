"""What the processes for untrusted files write: one line that tells what was read or what is wrong; their limits. Here they run in this process."""

from __future__ import annotations

import io
import json
import resource
import unittest
from collections.abc import Callable
from types import SimpleNamespace
from typing import Any
from unittest.mock import patch

import openpyxl
import trimesh

from ember_core.imports import mesh_process, workbook_process
from ember_core.traces import process as trace_process
from ember_core.traces.reduced import unpacked


def run(main: Callable[[], int], raw: bytes) -> tuple[dict[str, Any], bytes, dict[int, int]]:
    """(what its first line tells, what comes after it, the limits that it sets itself)."""
    out, limits = io.TextIOWrapper(io.BytesIO(), write_through=True), dict[int, int]()
    with (
        patch("resource.setrlimit", lambda what, pair: limits.update({what: pair[0]})),
        patch("sys.stdin", SimpleNamespace(buffer=io.BytesIO(raw))),
        patch("sys.stdout", out),
    ):
        assert main() == 0
    told, _, rest = out.buffer.getvalue().partition(b"\n")  # type: ignore[attr-defined]
    return json.loads(told), rest, limits


def book() -> bytes:
    found, out = openpyxl.Workbook(), io.BytesIO()
    found.active.append(["Part", "sleep mA"])
    found.active.append(["Brain", 1])
    found.save(out)
    return out.getvalue()


class Processes(unittest.TestCase):
    def limited(self, limits: dict[int, int], module: Any) -> None:
        self.assertEqual(
            {k: limits[k] for k in (resource.RLIMIT_DATA, resource.RLIMIT_CPU, resource.RLIMIT_CORE)},
            {
                resource.RLIMIT_DATA: module.MOST_MEMORY,
                resource.RLIMIT_CPU: module.MOST_SECONDS,
                resource.RLIMIT_CORE: 0,
            },
        )

    def test_a_workbook(self) -> None:
        told, rest, limits = run(workbook_process.main, book())
        self.assertEqual((told["sheets"][0]["rows"], rest), ([["Part", "sleep mA"], ["Brain", "1"]], b""))
        self.limited(limits, workbook_process)
        self.assertEqual(limits[resource.RLIMIT_AS], 2 * workbook_process.MOST_MEMORY)
        told, _, _ = run(workbook_process.main, b"PK\x03\x04 broken")
        self.assertEqual(list(told), ["problem"])
        with patch.object(workbook_process, "read_sheets", side_effect=MemoryError):
            self.assertIn("memory", run(workbook_process.main, book())[0]["problem"])

    def test_a_mesh(self) -> None:
        raw = trimesh.creation.box((10, 20, 30)).export(file_type="stl")
        told, rest, limits = run(lambda: mesh_process.main(["body", "box.stl"]), raw)
        self.assertEqual((told["body"]["size_mm"], rest), ([10.0, 20.0, 30.0], b""))
        self.limited(limits, mesh_process)
        inches, _, _ = run(lambda: mesh_process.main(["body", "box.stl", "in"]), raw)
        self.assertEqual([round(x, 1) for x in inches["body"]["size_mm"]], [254.0, 508.0, 762.0])
        self.assertEqual(list(run(lambda: mesh_process.main(["body", "box.stl"]), b"solid nothing")[0]), ["problem"])
        hollow = trimesh.boolean.difference(
            [trimesh.creation.box((60, 40, 20)), trimesh.creation.box((56, 36, 16))], engine="manifold"
        )
        as_case, as_body = (
            run(lambda k=k: mesh_process.main([k, "box.stl"]), hollow.export(file_type="stl"))[0]["body"]
            for k in ("case", "body")  # type: ignore[misc]
        )
        self.assertEqual((as_case["case"] is not None, as_body["case"] is not None), (True, False))
        with patch.object(mesh_process, "read_mesh", side_effect=MemoryError):
            self.assertIn("1024 MB", run(lambda: mesh_process.main(["body", "box.stl"]), raw)[0]["problem"])

    def test_a_recording(self) -> None:
        rows = "".join(f"{0.01 * i:.2f},{1.0 + i % 2}\n" for i in range(200))
        named, bare = (f"{head}\n{rows}".encode() for head in ("time (s),current (mA)", "time (s),current"))
        told, rest, limits = run(lambda: trace_process.main([]), named)
        self.assertEqual(told["samples"], 200)
        self.assertAlmostEqual(unpacked(rest).recording.current_a.mean(), 1.5e-3, places=9)
        self.limited(limits, trace_process)
        asked, rest, _ = run(lambda: trace_process.main([]), bare)
        self.assertEqual((asked["asked"], rest), ("current", b""))
        self.assertIn("mA", asked["choices"])
        told, rest, _ = run(lambda: trace_process.main([json.dumps({"current": "mA"})]), bare)
        self.assertAlmostEqual(unpacked(rest).recording.current_a.mean(), 1.5e-3, places=9)
        self.assertEqual(list(run(lambda: trace_process.main([]), b"nothing")[0]), ["problem"])
        with patch.object(trace_process, "read_recording", side_effect=MemoryError):
            self.assertIn("memory", run(lambda: trace_process.main([]), named)[0]["problem"])


if __name__ == "__main__":
    unittest.main()

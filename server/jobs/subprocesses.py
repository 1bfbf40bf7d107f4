"""A file that somebody uploaded, read by a module of the core in a process of its own, which is ended with its job."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterable
from contextlib import suppress

from django.conf import settings

from .services import JobRefused, Report

LOOKS_EVERY_S = 0.25


def read_by(
    module: str,
    arguments: list[str],
    content: Iterable[bytes],
    report: Report | None,
    *,
    most_s: float,
    usual_s: float,
    too_long: str,
    folder: str = "core",
    gently_s: float = 0.0,
) -> tuple[bytes, int]:
    """(what the process wrote, its exit code). It runs in a folder of the application, and is asked to end so long before it is made to.
    After `usual_s` it is told to be half done; how far it really is nobody can know."""
    with (
        tempfile.TemporaryFile() as source,
        tempfile.TemporaryFile() as target,
        tempfile.TemporaryDirectory(
            prefix="ember-"
        ) as room,  # for what the libraries write; gone with it, however it ends
    ):
        for piece in content:
            source.write(piece)
        source.seek(0)
        process = subprocess.Popen(
            [sys.executable, "-m", module, *arguments],
            stdin=source,
            stdout=target,
            stderr=subprocess.DEVNULL,
            cwd=settings.ROOT / folder,
            env=os.environ | {"TMPDIR": room, "PYTHONPATH": str(settings.ROOT / "core")},
        )
        try:
            begun = time.monotonic()
            while process.poll() is None:
                spent = time.monotonic() - begun
                if spent > most_s:
                    raise JobRefused(too_long)
                if report is not None:
                    report.progress(spent / (spent + usual_s))
                time.sleep(LOOKS_EVERY_S)
        finally:
            if gently_s and process.poll() is None:
                process.terminate()
                with suppress(subprocess.TimeoutExpired):
                    process.wait(gently_s)
            process.kill()
            process.wait()
        target.seek(0)
        return target.read(), process.returncode

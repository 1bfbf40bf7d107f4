"""Reads a body from a file that somebody uploaded, in a process of its own that may take so much memory and time and no more."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from typing import Any

from django.conf import settings

from blobs import services as blobs
from config.errors import Refused

from .models import Job
from .services import JobRefused, Report

MOST_SECONDS = 240.0  # by the clock: a busy machine is no fault of the file, which has 30 s of processor time
LOOKS_EVERY_S = 0.25
USUAL_SECONDS = 3.0  # after so long it is half done; how far it really is nobody can know


def read_mesh_file(job: Job, report: Report) -> Any:
    """The body in the blob that was asked for, as the core has it."""
    try:
        holding = blobs.holding_for(job.owner, job.asked["digest"])
    except Refused:
        raise JobRefused("the file is not there any more") from None
    unit = [job.asked["unit"]] if job.asked.get("unit") else []
    kind = "case" if job.asked.get("as_case") else "body"
    command = [sys.executable, "-m", "ember_core.imports.mesh_process", kind, holding.name, *unit]
    with (
        tempfile.TemporaryFile() as source,
        tempfile.TemporaryFile() as target,
        tempfile.TemporaryDirectory(
            prefix="ember-"
        ) as room,  # for what the libraries write; gone with it, however it ends
    ):
        for content in blobs.read(holding):
            source.write(content)
        source.seek(0)
        process = subprocess.Popen(
            command,
            stdin=source,
            stdout=target,
            stderr=subprocess.DEVNULL,
            cwd=settings.ROOT / "core",
            env=os.environ | {"TMPDIR": room},
        )
        try:
            _watch(process, report)
        finally:
            process.kill()
            process.wait()
        target.seek(0)
        return _answer(target.read(), process.returncode)


def _watch(process: subprocess.Popen[bytes], report: Report) -> None:
    begun = time.monotonic()
    while process.poll() is None:
        spent = time.monotonic() - begun
        if spent > MOST_SECONDS:
            raise JobRefused(f"it took more than {MOST_SECONDS:g} s to read. Export it more coarsely")
        report.progress(spent / (spent + USUAL_SECONDS))
        time.sleep(LOOKS_EVERY_S)


def _answer(raw: bytes, code: int) -> Any:
    try:
        answer = json.loads(raw)
    except ValueError:
        if code == -signal.SIGXCPU:
            raise JobRefused("it took more than 30 s of processor time to read. Export it more coarsely") from None
        raise JobRefused(
            f"reading it broke off (code {code}): too large or not sound. Export it anew, or more coarsely"
        ) from None
    if "problem" in answer:
        raise JobRefused(answer["problem"])
    return answer["body"]

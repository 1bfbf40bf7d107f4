"""Places, messages and running of programs."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VAR = ROOT / "var"
RUN = VAR / "run"
LOGS = VAR / "log"
STAMPS = VAR / "stamps"
VENV = VAR / "venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"
SERVER = ROOT / "server"


class Trouble(Exception):
    """Something that keeps the command from going on: a plain sentence and a way out."""


def say(text: str) -> None:
    print(f"ember: {text}", flush=True)


def folders() -> None:
    for folder in (VAR, RUN, LOGS, STAMPS):
        folder.mkdir(parents=True, exist_ok=True)


def find_program(*names: str) -> str | None:
    """The first of the programs that is installed; also looks where only root's PATH does."""
    path = os.pathsep.join([os.environ.get("PATH", ""), "/usr/sbin", "/usr/local/sbin", "/sbin"])
    return next((found for name in names if (found := shutil.which(name, path=path))), None)


def run_logged(name: str, command: list[str], *, cwd: Path = ROOT, env: dict[str, str] | None = None) -> None:
    """Runs a step with its output in a log; on failure shows the end of it."""
    log = LOGS / f"{name}.log"
    with log.open("wb") as stream:
        code = subprocess.run(
            command, cwd=cwd, env=env, stdout=stream, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL, check=False
        ).returncode
    if code:
        tail = "\n".join(log.read_text("utf-8", "replace").splitlines()[-15:])
        raise Trouble(f"'{' '.join(command[:4])} ...' failed. The end of {log.relative_to(ROOT)}:\n{tail}")


def digest(paths: Iterable[Path]) -> str:
    """A digest of files' names and contents."""
    total = hashlib.sha256()
    for path in sorted(paths):
        total.update(str(path.relative_to(ROOT)).encode() + b"\0" + path.read_bytes() + b"\0")
    return total.hexdigest()


def is_done(step: str, key: str) -> bool:
    stamp = STAMPS / step
    return stamp.exists() and stamp.read_text() == key


def mark_done(step: str, key: str) -> None:
    (STAMPS / step).write_text(key)


# glibc gives freed memory back to the system at once by default, and the next array pays for getting it again: a fifth of an
# evaluation. Heaps for each thread only cost memory.
LEAN = {
    "MALLOC_TRIM_THRESHOLD_": str(64 * 2**20),
    "MALLOC_MMAP_THRESHOLD_": str(16 * 2**20),
    "MALLOC_TOP_PAD_": str(8 * 2**20),
    "MALLOC_ARENA_MAX": "2",
}


def django_env(extra: dict[str, str] | None = None) -> dict[str, str]:
    """The environment of every Python process of the application."""
    paths = [str(ROOT / "core"), str(SERVER), str(ROOT)]
    return os.environ | LEAN | {
        "PYTHONPATH": os.pathsep.join(paths), "DJANGO_SETTINGS_MODULE": "config.settings", "PYTHONUNBUFFERED": "1",
        # one evaluation uses one core; more threads only contend
        "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1",
    } | (extra or {})  # fmt: skip


def manage(*arguments: str, extra: dict[str, str] | None = None) -> int:
    """Runs a Django command in the foreground."""
    command = [str(PYTHON), str(SERVER / "manage.py"), *arguments]
    return subprocess.run(command, cwd=ROOT, env=django_env(extra), check=False).returncode


def wait_until(condition: object, seconds: float) -> bool:
    """Waits for a callable to become true."""
    assert callable(condition)
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if condition():
            return True
        time.sleep(0.05)
    return False


def main_exit(error: Trouble) -> int:
    print(f"ember: {error}", file=sys.stderr, flush=True)
    return 1

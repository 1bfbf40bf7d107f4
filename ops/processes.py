"""Child processes with their pid on record, so that `stop` ends exactly what `start` began."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
from dataclasses import dataclass
from pathlib import Path

from .base import LOGS, ROOT, RUN, wait_until


@dataclass
class Child:
    """A process of ours: its own process group, its output in a log, its pid in var/run."""

    name: str
    process: subprocess.Popen[bytes]

    @classmethod
    def start(cls, name: str, command: list[str], env: dict[str, str] | None = None) -> Child:
        with (LOGS / f"{name}.log").open("ab") as log:
            process = subprocess.Popen(
                command, cwd=ROOT, env=env, stdin=subprocess.DEVNULL, stdout=log, stderr=subprocess.STDOUT,
                start_new_session=True,
            )  # fmt: skip
        write_pid(name, process.pid)
        return cls(name, process)

    def running(self) -> bool:
        return self.process.poll() is None

    def stop(self) -> None:
        if self.running():
            self.process.terminate()
            try:
                self.process.wait(30)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait(10)
        forget_pid(self.name)


def _pid_file(name: str) -> Path:
    return RUN / f"{name}.pid"


def write_pid(name: str, pid: int) -> None:
    """Records a process and the `ember` command that owns it, each with the time it began."""
    owner = os.getpid()
    _pid_file(name).write_text(f"{pid} {_started(pid)} {owner} {_started(owner)}")


def forget_pid(name: str) -> None:
    _pid_file(name).unlink(missing_ok=True)


def _started(pid: int) -> str:
    """When a process began, in clock ticks: tells it from a later one with the same number; empty if it is gone."""
    try:
        fields = (Path("/proc") / str(pid) / "stat").read_text().rsplit(")", 1)[1].split()
    except OSError:
        return ""
    return "" if fields[0] == "Z" else fields[19]


def _record(name: str) -> list[str]:
    try:
        fields = _pid_file(name).read_text().split()
    except OSError:
        return []
    return fields if len(fields) == 4 else []


def _is(pid: str, started: str) -> bool:
    return _started(int(pid)) == started


def read_pid(name: str) -> int | None:
    """The pid on record, if that very process still runs."""
    record = _record(name)
    return int(record[0]) if record and _is(*record[:2]) else None


def owner_of(name: str) -> int | None:
    """The pid of the `ember` command that owns a process, if it still runs."""
    record = _record(name)
    return int(record[2]) if record and _is(*record[2:]) else None


def kill_child(name: str) -> bool:
    """Ends a process on record whose parent is gone. Returns whether there was one."""
    pid = read_pid(name)
    if pid is None:
        forget_pid(name)
        return False
    for sig, seconds in ((signal.SIGTERM, 30.0), (signal.SIGKILL, 5.0)):
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, sig)
        if wait_until(lambda: read_pid(name) is None, seconds):
            break
    forget_pid(name)
    return True

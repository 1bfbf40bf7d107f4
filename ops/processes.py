"""Child processes with their pid on record, so that `stop` ends exactly what `start` began.

Each child leads a process group, which is ended whole: a web server's workers do not outlive it.
"""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
from dataclasses import dataclass
from pathlib import Path

from .base import LOGS, ROOT, RUN, wait_until

MARK = "EMBER_HOME"  # in the environment of every child: tells ours from a stranger's
TERM_S, KILL_S = 30.0, 5.0  # how long a group may take to end


@dataclass
class Child:
    """A process of ours: its own process group, its output in a log, its pid in var/run."""

    name: str
    process: subprocess.Popen[bytes]

    @classmethod
    def start(cls, name: str, command: list[str], env: dict[str, str] | None = None) -> Child:
        marked = (os.environ if env is None else env) | {MARK: str(ROOT)}
        with (LOGS / f"{name}.log").open("ab") as log:
            process = subprocess.Popen(
                command, cwd=ROOT, env=marked, stdin=subprocess.DEVNULL, stdout=log, stderr=subprocess.STDOUT,
                start_new_session=True,
            )  # fmt: skip
        write_pid(name, process.pid)
        return cls(name, process)

    def running(self) -> bool:
        return self.process.poll() is None

    def stop(self) -> None:
        """Ends the process and what is left of its group."""
        if self.running():
            self.process.terminate()
            with contextlib.suppress(subprocess.TimeoutExpired):
                self.process.wait(TERM_S)
        end_group(self.process.pid)
        with contextlib.suppress(subprocess.TimeoutExpired):
            self.process.wait(KILL_S)
        forget_pid(self.name)


def end_group(leader: int) -> bool:
    """Ends every process of ours in the group of a child, whether or not its leader lives. Returns whether there was
    one."""
    found = False
    for sig, seconds in ((signal.SIGTERM, TERM_S), (signal.SIGKILL, KILL_S)):
        members = _group(leader)
        found = found or bool(members)
        for pid in members:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, sig)
        if wait_until(lambda: not _group(leader), seconds):
            break
    return found


def _group(leader: int) -> list[int]:
    """The processes of a group that carry our mark and have not ended."""
    return [pid for pid in map(int, filter(str.isdigit, os.listdir("/proc"))) if _belongs(pid, leader)]  # noqa: PTH208


def _belongs(pid: int, leader: int) -> bool:
    try:
        place = Path("/proc") / str(pid)
        fields = (place / "stat").read_text().rsplit(")", 1)[1].split()
        if fields[0] in "ZX" or int(fields[2]) != leader:
            return False
        return f"{MARK}={ROOT}".encode() in (place / "environ").read_bytes().split(b"\0")
    except OSError:
        return False


def _pid_file(name: str) -> Path:
    return RUN / f"{name}.pid"


def write_pid(name: str, pid: int) -> None:
    """Records a process and the `ember` command that owns it, each with the time it began."""
    owner, place = os.getpid(), _pid_file(name)
    fresh = place.with_suffix(".new")
    fresh.write_text(f"{pid} {_started(pid) or 0} {owner} {_started(owner) or 0}")
    fresh.replace(place)  # never half a record


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
    except (OSError, UnicodeDecodeError):
        return []
    return fields if len(fields) == 4 and all(f.isdecimal() and len(f) < 20 for f in fields) else []


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
    """Ends a process on record, and its group, whose `ember` command is gone. Returns whether there was one."""
    record = _record(name)
    leader = int(record[0]) if record else 0
    # a leader with the same number that began at another time is a stranger, and so is its group
    ours = leader > 0 and (read_pid(name) == leader or not _started(leader))
    found = ours and end_group(leader)
    forget_pid(name)
    return found

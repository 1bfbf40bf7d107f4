"""An attack on the running application: its processes are killed one after another, at any operating point, while somebody saves.

    python -m e2e.kills [KILLS] [SEED]

Afterwards everything that was acknowledged is there, and every next start works. Uses a database folder of the copy of the
project it runs in: run it in a clone.
"""

from __future__ import annotations

import contextlib
import http.cookiejar
import json
import os
import random
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
PORT = 8790
TARGETS = ("supervisor", "web", "worker", "mariadb", "a web process")


class Client:
    """Signed in to the demo account; saves a counter into a gadget's summary."""

    def __init__(self) -> None:
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))

    def ask(self, method: str, path: str, body: Any = None) -> Any:
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        url = f"http://127.0.0.1:{PORT}"
        headers = {"Content-Type": "application/json", "X-CSRFToken": token or "", "Referer": url}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{url}/api{path}", data, headers, method=method)
        with self.opener.open(request, timeout=30) as response:
            return json.loads(response.read() or b"null")

    def sign_in(self) -> int:
        self.ask("GET", "/session")
        self.ask("POST", "/session/demo", {})
        project = self.ask("GET", "/projects")[0]
        return int(project["variants"][0]["id"])


class Saver(threading.Thread):
    """Saves as fast as it can, and remembers the last number that was acknowledged."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self.acknowledged, self.failed, self.codes = 0, 0, dict[str, int]()
        self.sent = 0
        self.stopping = False

    def run(self) -> None:
        client, variant = Client(), None
        while not self.stopping:
            try:
                if variant is None:
                    variant = client.sign_in()
                state = client.ask("GET", f"/variants/{variant}")
                self.sent += 1
                design = state["design"] | {"summary": f"number {self.sent}"}
                body = {"base": state["revision"]["id"], "design": design}
                client.ask("POST", f"/variants/{variant}/revisions", body)
                self.acknowledged = self.sent
            except (urllib.error.URLError, OSError, ValueError) as error:
                self.failed += 1
                code = str(getattr(error, "code", type(error).__name__))
                self.codes[code] = self.codes.get(code, 0) + 1
                time.sleep(0.1)


def pid_of(name: str) -> int | None:
    with contextlib.suppress(OSError, ValueError, IndexError):
        return int((ROOT / "var" / "run" / f"{name}.pid").read_text().split()[0])
    return None


def start() -> subprocess.Popen[bytes]:
    log = (ROOT / "var" / "kills.log").open("ab")
    return subprocess.Popen([str(ROOT / "ember"), "start", "--port", str(PORT)], stdout=log, stderr=log)


def answers(seconds: float, ended: Callable[[], None] = lambda: None) -> float:
    """How long until the application answers [s]; `ended` is called now and then, to look after a start that gave up."""
    began = time.monotonic()
    while time.monotonic() - began < seconds:
        ended()
        with contextlib.suppress(urllib.error.URLError, OSError, ValueError):
            Client().ask("GET", "/session")
            return time.monotonic() - began
        time.sleep(0.1)
    raise SystemExit(f"does not answer after {seconds} s; see var/kills.log")


def main(kills: int, seed: int) -> None:
    choose = random.Random(seed)
    supervisor = start()
    answers(400)
    given_up = 0

    def again() -> None:
        """A start whose database is killed under it ends with a sentence; the next one has to work."""
        nonlocal supervisor, given_up
        if supervisor.poll() is not None:
            given_up += 1
            supervisor = start()
            time.sleep(1.5)

    saver = Saver()
    saver.start()
    waits: dict[str, list[float]] = {}
    for i in range(kills):
        time.sleep(choose.uniform(0.5, 3))
        name = choose.choice(TARGETS)
        pid = pid_of("web" if name == "a web process" else name)
        if pid is None:
            continue
        if name == "a web process":
            children = []
            with contextlib.suppress(OSError):
                children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
            pid = int(choose.choice(children)) if children else pid
        try:
            os.kill(pid, signal.SIGKILL)
        except ProcessLookupError:
            continue  # it is just being started again
        if name == "supervisor":
            supervisor.wait()
            supervisor = start()
            time.sleep(1.5)
        time.sleep(0.05)
        waits.setdefault(name, []).append(answers(120, again))
        seen, last = saver.acknowledged, time.monotonic()
        while saver.acknowledged == seen:
            again()
            if time.monotonic() - last > 120:
                raise SystemExit(f"nothing is saved any more after kill {i} of {name}")
            time.sleep(0.1)
    saver.stopping = True
    saver.join(60)
    sys.exit(_report(kills, saver, waits, given_up, supervisor))


def _report(
    kills: int, saver: Saver, waits: dict[str, list[float]], given_up: int, supervisor: subprocess.Popen[bytes]
) -> int:
    """Says how it went, and stops the application. 0 where nothing was lost and nothing is left over."""
    client = Client()
    variant = client.sign_in()
    kept = int(client.ask("GET", f"/variants/{variant}")["design"]["summary"].split()[1])
    subprocess.run([str(ROOT / "ember"), "stop"], check=True)
    supervisor.wait(60)
    left = subprocess.run(
        ["pgrep", "-f", str(ROOT / "var")], capture_output=True, text=True, check=False
    ).stdout.split()
    print(
        f"{kills} kills; {saver.acknowledged} acknowledged, {kept} kept, {saver.failed} refused meanwhile {saver.codes}"
    )
    for name, times in sorted(waits.items()):
        print(f"  {name}: {len(times)} times, answers again after {max(times):.1f} s at most")
    print(f"starts that gave up because their database was killed: {given_up}; left over: {left or 'nothing'}")
    return 0 if kept >= saver.acknowledged and not left else 1


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 60, int(sys.argv[2]) if len(sys.argv) > 2 else 1)

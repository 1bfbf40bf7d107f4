"""Fifty people edit at once: each changes a figure, has it evaluated and saved, and thinks for three seconds.

    python -m e2e.load URL [EDITORS] [SECONDS]

Bounded in number and time, on the loopback address only; `./ember bench load` runs it on a scratch database.
"""

from __future__ import annotations

import http.client
import json
import random
import statistics
import sys
import threading
import time
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

THINK_S = 3.0
MOST_EDITORS, MOST_SECONDS = 100, 300
DOCUMENT = Path(__file__).resolve().parent.parent / "demo" / "dusk-ear.json"


class Editor(threading.Thread):
    def __init__(self, place: tuple[str, int], number: int, until: float) -> None:
        super().__init__(daemon=True)
        self.choose = random.Random(number)
        self.until = until
        self.connection = http.client.HTTPConnection(*place, timeout=30)
        self.cookies: dict[str, str] = {}
        self.times: dict[str, list[float]] = {"evaluate": [], "save": [], "edit": []}
        self.wrong: list[str] = []
        self.edits = 0
        self.kept = False

    def ask(self, method: str, path: str, body: Any = None) -> tuple[Any, http.client.HTTPResponse]:
        headers = {"Content-Type": "application/json", "X-CSRFToken": self.cookies.get("csrftoken", ""),
                   "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items())}  # fmt: skip
        data = json.dumps(body) if body is not None else None
        try:
            self.connection.request(method, f"/api{path}", data, headers)
            response = self.connection.getresponse()
        except (http.client.RemoteDisconnected, BrokenPipeError, ConnectionResetError):
            self.connection.close()  # the server let the idle connection go while we were thinking, as with a browser
            self.connection.request(method, f"/api{path}", data, headers)
            response = self.connection.getresponse()
        for value in response.headers.get_all("Set-Cookie") or []:
            name, _, rest = value.partition("=")
            self.cookies[name] = rest.split(";")[0]
        raw = response.read()
        if response.status >= 400:
            self.wrong.append(f"{response.status} {path} {raw[:100]!r}")
        return json.loads(raw or b"null"), response

    def prepare(self) -> None:
        self.ask("GET", "/session")
        self.ask("POST", "/session/demo", {})
        variant = self.ask("GET", "/projects")[0][0]["variants"][0]["id"]
        project = self.ask("GET", f"/variants/{variant}")[0]["project"]["id"]
        document = json.loads(DOCUMENT.read_text())
        made = self.ask("POST", f"/projects/{project}/variants",
                        {"name": f"Load {id(self)} {self.choose.random()}", "design": document})[0]  # fmt: skip
        self.variant, self.base, self.design = made["id"], made["revision"]["id"], made["design"]

    def run(self) -> None:
        time.sleep(self.choose.uniform(0, THINK_S))  # people do not begin together
        while time.monotonic() < self.until:
            self.edit()
            time.sleep(self.choose.uniform(0.7, 1.3) * THINK_S)
        stored = self.ask("GET", f"/variants/{self.variant}")[0]
        self.kept = stored["design"]["summary"] == self.design["summary"]

    def edit(self) -> None:
        self.edits += 1
        self.design["summary"] = f"edit {self.edits}"
        self.design["battery"]["cell"]["capacity_ah"] = round(self.choose.uniform(0.3, 1.2), 4)
        began = time.perf_counter()
        _, response = self.ask("POST", "/evaluate", self.design)
        evaluated = time.perf_counter()
        receipt = response.headers.get("Evaluation-Receipt", "")
        body = {"base": self.base, "design": self.design, "receipt": receipt}
        saved, answer = self.ask("POST", f"/variants/{self.variant}/revisions", body)
        done = time.perf_counter()
        if answer.status == 200:
            self.base = saved["id"]
        for name, seconds in (("evaluate", evaluated - began), ("save", done - evaluated), ("edit", done - began)):
            self.times[name].append(seconds)


def main(url: str, editors: int, seconds: int) -> int:
    parts = urlsplit(url)
    if parts.hostname not in ("127.0.0.1", "localhost") or editors > MOST_EDITORS or seconds > MOST_SECONDS:
        print(
            f"only on the loopback address, with at most {MOST_EDITORS} editors for {MOST_SECONDS} s", file=sys.stderr
        )
        return 2
    place = (parts.hostname, parts.port or 80)
    crowd = [Editor(place, i, 0.0) for i in range(editors)]
    for editor in crowd:
        editor.prepare()
    until = time.monotonic() + seconds
    for editor in crowd:
        editor.until = until
        editor.start()
    for editor in crowd:
        editor.join(seconds + 60)
    edits = sum(e.edits for e in crowd)
    print(f"{editors} editors, {THINK_S:g} s of thinking, {seconds} s: {edits} edits, {edits / seconds:.1f} a second")
    for name in ("evaluate", "save", "edit"):
        times = sorted(t for e in crowd for t in e.times[name])
        cut = statistics.quantiles(times, n=100)
        print(
            f"  {name:9} median {cut[49] * 1000:5.0f} ms   p95 {cut[94] * 1000:5.0f} ms   longest {times[-1] * 1000:5.0f} ms"
        )
    wrong = [w for e in crowd for w in e.wrong]
    lost = sum(not e.kept for e in crowd)
    print(f"  refused or failed: {len(wrong)} {wrong[:3]}   gadgets that lost their last edit: {lost}")
    return 1 if wrong or lost else 0


if __name__ == "__main__":
    sys.exit(
        main(sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 50, int(sys.argv[3]) if len(sys.argv) > 3 else 60)
    )

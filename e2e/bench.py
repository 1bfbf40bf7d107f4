"""The speed figures. Run by `./ember bench`; prints, and judges nothing."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from collections.abc import Callable

from django.conf import settings
from playwright.sync_api import expect

from ember_core import evaluate, read_design

from .base import BrowserTestCase

DEMO = settings.ROOT / "demo" / "dusk-ear.json"


def measured(work: Callable[[], object], runs: int) -> list[float]:
    """Seconds of each run, after one that is not counted."""
    work()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return times


def report(name: str, seconds: list[float], target_ms: float) -> None:
    middle = statistics.median(seconds) * 1000
    low, high = min(seconds) * 1000, max(seconds) * 1000
    print(
        f"{name:<58} {middle:9.1f} ms  ({low:.1f} to {high:.1f}, {len(seconds)} runs)"
        f"  target {target_ms:g} ms, ratio {middle / target_ms:.2f}",
        flush=True,
    )


class Bench(BrowserTestCase):
    def test_core(self) -> None:
        design = read_design(DEMO.read_bytes())
        report("evaluate Dusk Ear, one process", measured(lambda: evaluate(design), 40), 50)

    def test_command_line(self) -> None:
        command = [sys.executable, "-m", "ember_core", str(DEMO)]
        work = lambda: subprocess.run(command, check=True, capture_output=True)  # noqa: E731
        report("whole process: evaluate FILE.json", measured(work, 5), 2000)

    def test_key_press_to_new_runtime(self) -> None:
        page = self.open_gadget()
        times = []
        for run in range(13):
            page.get_by_test_id("cell-controller-listening").click()
            page.keyboard.type(f"{40 + 3 * run} mA")
            # the time is taken in the page: from the key press to the changed text
            page.evaluate(
                """() => {
                  const figure = document.querySelector('[data-testid=figure-runtime]');
                  const before = figure.textContent;
                  window.measured = new Promise((done) => {
                    let start;
                    document.addEventListener('keydown', () => { start = performance.now(); },
                                              { capture: true, once: true });
                    new MutationObserver((_, observer) => {
                      if (figure.textContent === before) return;
                      observer.disconnect();
                      requestAnimationFrame(() => done(performance.now() - start));
                    }).observe(figure, { subtree: true, characterData: true, childList: true });
                  });
                }"""
            )
            page.keyboard.press("Enter")
            times.append(page.evaluate("window.measured") / 1000)
            self.expect_saved()
        report("key press to the new runtime on screen, loopback", times[1:], 200)

    def test_first_page_after_sign_in(self) -> None:
        def once() -> float:
            page = self.new_page()
            page.goto(self.live_server_url)
            button = page.get_by_role("button", name="Look around in the demo")
            expect(button).to_be_visible()
            start = time.perf_counter()
            button.click()
            expect(page.get_by_role("link", name="Pouch cell")).to_be_visible()
            return time.perf_counter() - start

        once()
        report("first page of the demo after sign-in", [once() for _ in range(5)], 2000)

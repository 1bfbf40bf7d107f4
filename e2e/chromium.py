"""How Debian's Chromium is started: headless, without a sandbox, without calls of its own into the network."""

from __future__ import annotations

from playwright.sync_api import ViewportSize

PROGRAM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--enable-unsafe-swiftshader", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
SIZE: ViewportSize = {"width": 1280, "height": 800}

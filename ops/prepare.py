"""Installing what is missing: Debian packages, the Python environment, the front end. Finished steps are skipped."""

from __future__ import annotations

import importlib.util
import os
import subprocess
import sys
import sysconfig
from collections.abc import Callable
from pathlib import Path

from .base import (
    LOGS,
    PYTHON,
    ROOT,
    VAR,
    VENV,
    WEB,
    Trouble,
    digest,
    find_program,
    folders,
    is_done,
    mark_done,
    run_logged,
    say,
)

# package -> what shows that it is there. mariadb-server-core is Debian's server without a system service, so
# installing it starts nothing and touches no database that the machine may already run.
PACKAGES: dict[str, Callable[[], bool]] = {
    "mariadb-server-core": lambda: bool(find_program("mariadbd")) and bool(find_program("mariadb-install-db")),
    "mariadb-client-core": lambda: bool(find_program("my_print_defaults")),  # what initialising the folder calls
    "libmariadb-dev": lambda: bool(find_program("mariadb_config")),
    "pkg-config": lambda: bool(find_program("pkg-config")),
    "gcc": lambda: bool(find_program("cc", "gcc")),
    "libc6-dev": lambda: Path("/usr/include/stdlib.h").exists(),
    "python3-dev": (Path(sysconfig.get_path("include")) / "Python.h").exists,
    "python3-venv": lambda: importlib.util.find_spec("ensurepip") is not None,
    "chromium": lambda: bool(find_program("chromium")),
}


def prepare() -> None:
    """Everything that must be there before the application or its tests can run."""
    folders()
    if sys.version_info < (3, 11):  # noqa: UP036 -- runs before anything is installed
        raise Trouble(f"Python 3.11 or newer is needed; this is {sys.version.split()[0]}. Install it and try again.")
    debian_packages()
    python_environment()
    front_end()


def debian_packages() -> None:
    missing = [name for name, there in PACKAGES.items() if not there()]
    if not missing:
        return
    by_hand = f"Install them by hand ('apt-get install {' '.join(missing)}') and start again."
    apt = find_program("apt-get")
    if apt is None:
        raise Trouble(f"these Debian packages are missing and there is no apt-get here: {', '.join(missing)}.")
    if os.geteuid() != 0:
        raise Trouble(f"these Debian packages are missing, and installing needs root: {', '.join(missing)}. {by_hand}")
    say(f"installing Debian packages: {', '.join(missing)} (a few minutes the first time)")
    env = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    try:
        run_logged("apt-update", [apt, "update", "-qq"], env=env)
        run_logged("apt-install", [apt, "install", "-y", "-qq", "--no-install-recommends", *missing], env=env)
    except Trouble as error:
        raise Trouble(f"the Debian packages could not be installed. {by_hand}\n{error}") from None
    still = [name for name in missing if not PACKAGES[name]()]
    if still:
        raise Trouble(f"installed, but still not usable: {', '.join(still)}. See {LOGS.relative_to(ROOT)}/.")


def python_environment() -> None:
    lock = ROOT / "requirements.lock"
    key = digest([lock]) + sys.version
    if is_done("python", key) and PYTHON.exists():
        return
    say("making the Python environment from requirements.lock (a minute or two)")
    run_logged("venv", [sys.executable, "-m", "venv", "--clear", str(VENV)])
    run_logged("pip", [str(PYTHON), "-m", "pip", "install", "--require-hashes", "-r", str(lock)])
    mark_done("python", key)


def front_end() -> None:
    node, npm = find_program("node"), find_program("npm")
    if node is None or npm is None:
        raise Trouble("Node.js 20 or newer with npm is needed to build the interface. Install both and try again.")
    version = subprocess.run([node, "--version"], capture_output=True, text=True, check=False).stdout.strip()
    if int(version.lstrip("v").split(".")[0] or 0) < 20:
        raise Trouble(f"Node.js 20 or newer is needed; this is {version}. Install it and try again.")
    lock = digest([WEB / "package-lock.json"])
    if not (is_done("npm", lock) and (WEB / "node_modules").is_dir()):
        say("installing the front end's packages (npm ci)")
        run_logged("npm", [npm, "ci", "--no-audit", "--no-fund"], cwd=WEB)
        mark_done("npm", lock)
    sources = [p for p in (WEB / "src").rglob("*") if p.is_file()]
    sources += [p for p in WEB.iterdir() if p.is_file()] + [p for p in (WEB / "public").rglob("*") if p.is_file()]
    sources += [ROOT / "docs" / "MODELS.md"]  # a page of it
    key = digest(sources)
    if not (is_done("build", key) and (WEB / "dist" / "index.html").exists()):
        say("building the front end")
        run_logged("build", [npm, "run", "--silent", "build"], cwd=WEB)
        run_logged("compress", [str(PYTHON), "-m", "whitenoise.compress", "--no-brotli", str(WEB / "dist")])
        mark_done("build", key)


def private_secret(name: str) -> str:
    """A random secret of this installation, kept in var/ and readable by its owner only."""
    path = VAR / name
    if not path.exists():
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(descriptor, "w") as stream:
            stream.write(os.urandom(32).hex())
    return path.read_text()

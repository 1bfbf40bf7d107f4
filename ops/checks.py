"""test: linters and types, then core, API and browser tests through Django's test runner."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

from .base import PYTHON, ROOT, VENV, WEB, Trouble, django_env, find_program, folders, manage, say
from .database import running_database
from .prepare import prepare, private_secret

SUITES = {"core": "core/tests", "ops": "ops/tests", "server": "server", "e2e": "e2e"}


def test(labels: list[str], *, thorough: bool = False) -> int:
    """Everything, or only the named suites or test labels; thorough: with all that is drawn at random."""
    folders()
    prepare()
    if not labels:
        static_checks()
    chosen = [SUITES.get(label, label) for label in labels] or list(SUITES.values())
    private_secret("secret-key")
    say(f"running the tests of {', '.join(chosen)}")
    with running_database():
        # the browser driver keeps an event loop in the test's thread, where Django would refuse its ORM
        return manage(
            "test",
            "--noinput",
            "--timing",
            "--parallel",
            str(PROCESSES),
            *chosen,
            extra={"DJANGO_ALLOW_ASYNC_UNSAFE": "1"} | ({"EMBER_THOROUGH": "1"} if thorough else {}),
        )


PROCESSES = max(2, os.cpu_count() or 2)


def static_checks() -> None:
    npm = find_program("npm")
    assert npm is not None
    python = [str(ROOT / part) for part in ("core", "server", "standins", "ops", "e2e", "validation", "ember")]
    checks: list[tuple[str, list[str], Path]] = [
        ("ruff", [str(VENV / "bin" / "ruff"), "check", *python], ROOT),
        ("the Python formatter", [str(VENV / "bin" / "ruff"), "format", "--check", "--quiet", *python], ROOT),
        ("mypy", [str(PYTHON), "-m", "mypy"], ROOT),
        ("the rules of the rooms", [str(VENV / "bin" / "lint-imports"), "--no-cache"], ROOT),
        ("the TypeScript check", [npm, "run", "--silent", "types"], WEB),
        ("the TypeScript linter", [npm, "run", "--silent", "lint"], WEB),
        ("the interface's own tests", [npm, "run", "--silent", "test"], WEB),
    ]
    for name, command, folder in checks:
        say(f"checking with {name}")
        if subprocess.run(command, cwd=folder, env=django_env(), check=False).returncode:
            raise Trouble(f"{name} found something; see above.")

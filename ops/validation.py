"""validate: reference discharges from physics-based models, in an environment of their own, and the comparison."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from .base import PYTHON, ROOT, VAR, digest, django_env, folders, run_logged, say
from .prepare import python_environment

FOLDER = VAR / "validation"
HEAVY = FOLDER / "venv"
NEEDS = ROOT / "validation" / "requirements.txt"
SETS = ("Chen2020", "Marquis2019", "Prada2013")


def validate(sets: list[str]) -> int:
    """Simulates what is not there yet (some minutes), then compares. The exit code tells whether all rows hold."""
    folders()
    python_environment()
    chosen = sets or list(SETS)
    source = FOLDER / f"{'-'.join(chosen)}.json"
    wanted = f"{digest([NEEDS, ROOT / 'validation' / 'reference.py'])} {' '.join(chosen)}"
    stamp = source.with_suffix(".stamp")
    if not source.exists() or not stamp.exists() or stamp.read_text() != wanted:
        command = [str(heavy_environment()), str(ROOT / "validation" / "reference.py"), str(source), *chosen]
        code = subprocess.run(command, cwd=ROOT, check=False).returncode
        if code:
            return code
        stamp.write_text(wanted)
    command = [str(PYTHON), "-m", "validation.compare", str(source)]
    return subprocess.run(command, cwd=ROOT, env=django_env(), check=False).returncode


def heavy_environment() -> Path:
    """The Python of the environment with the physics-based models; made where it is missing."""
    python = HEAVY / "bin" / "python"
    FOLDER.mkdir(parents=True, exist_ok=True)
    stamp = FOLDER / "venv.stamp"
    wanted = digest([NEEDS])
    if not stamp.exists() or stamp.read_text() != wanted:
        say("installing the physics-based models, only for this")
        run_logged("validation-venv", [sys.executable, "-m", "venv", "--clear", str(HEAVY)])
        run_logged("validation-pip", [str(HEAVY / "bin" / "pip"), "install", "--quiet", "-r", str(NEEDS)])
        stamp.write_text(wanted)
    return python

"""The commands of `./ember`."""

from __future__ import annotations

import argparse
import errno
import os
import subprocess
import time
from pathlib import Path
from typing import Any

from . import application, checks, validation
from .application import running_application
from .base import PYTHON, ROOT, Trouble, django_env, folders, main_exit, manage
from .database import free_port, running_database
from .prepare import prepare, private_secret, python_environment
from .processes import read_pid

DEFAULT_PORT = 8000


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="ember", description="Frugal Ember: from parts to verdict.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    start = commands.add_parser("start", help="set up what is missing and serve on 127.0.0.1")
    start.add_argument("--port", type=int, default=DEFAULT_PORT)
    commands.add_parser("stop", help="end what start began")
    backup = commands.add_parser("backup", help="write everything that people made into one file")
    backup.add_argument("file")
    restore = commands.add_parser("restore", help="put a backup in place of what is there")
    restore.add_argument("file")
    test = commands.add_parser("test", help="linters, types and all tests")
    test.add_argument("labels", nargs="*", help="core, ops, server, e2e, or a test's dotted name; all by default")
    test.add_argument(
        "--thorough",
        action="store_true",
        help="all that is drawn at random, not a part of it; takes an hour more",
    )
    _on_documents(commands)
    validate = commands.add_parser("validate", help="hold the battery model against physics-based models")
    validate.add_argument("sets", nargs="*", help="parameter sets; the three of docs/VALIDATION.md by default")
    mutate = commands.add_parser("mutate", help="how many small faults in the core its tests notice")
    mutate.add_argument("modules", nargs="*", help="of the core; those with rules for their tests by default")
    mutate.add_argument("--count", type=int, default=240, help="how many faults")
    mutate.add_argument("--seed", type=int, default=1)
    sentences = commands.add_parser("sentences", help="all that is said of the demos and of random gadgets, to be read")
    sentences.add_argument("--count", type=int, default=50, help="how many random gadgets")
    bench_ = commands.add_parser("bench", help="print the speed figures")
    bench_.add_argument("what", nargs="?", choices=["load"], help="load: fifty people at once, instead")
    bench_.add_argument("--editors", type=int, default=50, help="of load: how many")
    commands.add_parser("shots", help="make the pictures in docs/screenshots/ anew")
    commands.add_parser("generate", help="make the schema, the API description and the TypeScript types anew")
    chosen = parser.parse_args(arguments)
    try:
        return _run(chosen)
    except Trouble as error:
        return main_exit(error)
    except OSError as error:
        return main_exit(_in_words(error))
    except KeyboardInterrupt:
        return 130


def _in_words(error: OSError) -> Trouble:
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return Trouble("the disk is full. Make room and try again; what was stored before is untouched.")
    place = f" ({error.filename})" if error.filename else ""
    return Trouble(f"the system refused: {(error.strerror or str(error)).lower()}{place}.")


def _on_documents(commands: Any) -> None:
    """The commands on a design document."""
    evaluate = commands.add_parser("evaluate", help="evaluate a design document")
    evaluate.add_argument("file")
    evaluate.add_argument("--json", action="store_true", help="the whole evaluation as JSON")
    evaluate.add_argument("--savings", action="store_true", help="also what would help most")
    schools = commands.add_parser("schools", help="a design document on each of six supplies, side by side")
    schools.add_argument("file")
    schools.add_argument("--json", action="store_true", help="as JSON, with the designs")
    choose = commands.add_parser("choose", help="of a design document, the supplies that no other beats")
    choose.add_argument("file")
    choose.add_argument(
        "--aim",
        choices=["cost", "mass", "room", "hours"],
        action="append",
        help="what counts beside the runtime, several where it is given again; cost by default",
    )
    choose.add_argument("--parts", action="store_true", help="with the parts that are kept beside others, too")
    choose.add_argument("--json", action="store_true", help="as JSON")
    bringup = commands.add_parser(
        "bringup", help="of a design document, what to measure in which order and what it should read"
    )
    bringup.add_argument("file")
    bringup.add_argument("--json", action="store_true", help="as JSON")
    bringup.add_argument("--csv", action="store_true", help="as CSV, with a column for what is read")
    wiring = commands.add_parser("wiring", help="of a design document, which pin goes to which signal (CSV)")
    wiring.add_argument("file")
    wiring.add_argument("--json", action="store_true", help="as JSON")
    trace = commands.add_parser("trace", help="a recorded current, cut into a design's modes and held against them")
    trace.add_argument("file")
    trace.add_argument("trace", metavar="TRACE.csv")
    trace.add_argument("--json", action="store_true", help="as JSON")
    rundown = commands.add_parser("rundown", help="a run-down test: when it ends, or why it ended when it did")
    rundown.add_argument("file")
    rundown.add_argument("rundown", metavar="COURSE.csv")
    rundown.add_argument("--over", action="store_true", help="the gadget was dead at its end")
    rundown.add_argument("--at", metavar="CELSIUS", help="how warm it was meanwhile")
    rundown.add_argument("--json", action="store_true", help="as JSON")
    standin = commands.add_parser(
        "standin", help="a simulated source-measure unit with the gadget of a design at its terminals (SCPI over TCP)"
    )
    standin.add_argument("file")
    standin.add_argument("--port", type=int)
    standin.add_argument("--fault", help="silent, garbage, stops, slow, errors, drops, saturates or units")
    standin.add_argument("--more-at-rest", help="what the gadget draws at rest beyond its design [A]")
    standin.add_argument("--speed", help="seconds of its life that pass in one")
    report = commands.add_parser("report", help="the report of a design document, as PDF")
    report.add_argument("file")
    report.add_argument("report", metavar="OUT.pdf")
    fit = commands.add_parser("fit", help="of a design document, how everything goes into its case")
    fit.add_argument("file")
    fit.add_argument("--case", metavar="OUT", help="also write the case's pieces (.stl, .3mf or .obj)")


STANDIN = ("port", "fault", "more_at_rest", "speed")


def _run(chosen: argparse.Namespace) -> int:
    match chosen.command:
        case "start":
            return application.start(chosen.port)
        case "stop":
            return application.stop()
        case "backup":
            return _with_database("backup", os.path.abspath(chosen.file), up_to_date=True)  # noqa: PTH100
        case "restore":
            if read_pid("supervisor"):
                raise Trouble("it is running; './ember stop' first, so that nobody works on what is replaced.")
            return _with_database("restore", os.path.abspath(chosen.file), up_to_date=True)  # noqa: PTH100
        case "test":
            return checks.test(chosen.labels, thorough=chosen.thorough)
        case "evaluate" | "schools" | "choose" | "bringup" | "wiring" | "trace" | "rundown" | "fit" | "report":
            folders()
            python_environment()
            return application.core_command(chosen.file, *_of_the_core(chosen))
        case "validate":
            return validation.validate(chosen.sets)
        case "mutate":
            folders()
            python_environment()
            drawn = ["--count", str(chosen.count), "--seed", str(chosen.seed)]
            return _module("core.tests.mutate", *drawn, *chosen.modules)
        case "standin":
            folders()
            python_environment()
            given = [f"--{k.replace('_', '-')}={v}" for k, v in vars(chosen).items() if k in STANDIN and v is not None]
            return _module("standins", f"--design={Path(chosen.file).resolve()}", *given)
        case "sentences":
            folders()
            python_environment()
            return _module("core.tests.said", str(chosen.count))
        case "bench":
            return load(chosen.editors) if chosen.what == "load" else bench()
        case "shots":
            return _with_database("test", "--noinput", "e2e.shots")
        case _:
            return _with_database("generate")


def _of_the_core(chosen: argparse.Namespace) -> list[str]:
    """What a command on a design document is called in the core."""
    if chosen.command == "report":
        return ["--report", str(Path(chosen.report).resolve())]
    if chosen.command == "rundown":
        flags = [f"--{name}" for name in ("over", "json") if getattr(chosen, name)]
        flags += [f"--at={chosen.at}"] if chosen.at is not None else []
        return ["--rundown", str(Path(chosen.rundown).resolve()), *flags]
    if chosen.command == "trace":
        return ["--trace", str(Path(chosen.trace).resolve()), *(["--json"] if chosen.json else [])]
    if chosen.command == "choose":
        flags = [f"--{name}" for name in ("parts", "json") if getattr(chosen, name)]
        return [*(f"--choose={aim}" for aim in chosen.aim or ["cost"]), *flags]
    told = [] if chosen.command == "evaluate" else [f"--{chosen.command}"]
    told += [f"--{x}" for x in ("json", "csv", "savings") if getattr(chosen, x, False)]
    return [*told, *(["--case", str(Path(chosen.case).resolve())] if getattr(chosen, "case", None) else [])]


def bench() -> int:
    """The figures of the core, of the served interface on a scratch database, and of a second start."""
    folders()
    prepare()
    code = _on_scratch("e2e.bench", str(validation.heavy_environment()))
    began = time.perf_counter()
    with running_application(free_port(DEFAULT_PORT + 90)):
        seconds = time.perf_counter() - began
    print(f"second start, until the page answers: {seconds:.1f} s  target 15 s, ratio {seconds / 15:.2f}")
    return code


def load(editors: int) -> int:
    """So many editors on the served application, on a scratch database."""
    folders()
    prepare()
    return _on_scratch("e2e.load", str(editors))


def _on_scratch(module: str, *arguments: str) -> int:
    """Runs a measurement against the application, served on an empty database that is dropped afterwards."""
    port = free_port(DEFAULT_PORT + 90)
    with running_database():
        manage("scratch_database", "create")
        with running_application(port, "test_ember"):
            command = [str(PYTHON), "-m", module, f"http://127.0.0.1:{port}", *arguments]
            code = subprocess.run(command, cwd=ROOT, env=django_env(), check=False).returncode
        manage("scratch_database", "drop")
    return code


def _module(name: str, *arguments: str) -> int:
    return subprocess.run([str(PYTHON), "-m", name, *arguments], cwd=ROOT, env=django_env(), check=False).returncode


def _with_database(*command: str, up_to_date: bool = False) -> int:
    """Runs a Django command beside the database, with the tables brought up to date before where that is wanted."""
    folders()
    prepare()
    private_secret("secret-key")
    with running_database():
        failed = up_to_date and manage("migrate", "--no-input", "--verbosity", "0")
        return failed or manage(*command, extra={"DJANGO_ALLOW_ASYNC_UNSAFE": "1"})

"""`python -m ember_core FILE.json [--json | --savings | --schools | --choose AIM | --bringup | --wiring | --trace CSV | --rundown CSV | --fit]`: evaluates a design document."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from . import VERSION, DocumentError, evaluate, read_design
from .bringup import bring_up, sheet_csv, sheet_text
from .catalogue import built_in
from .choosing import AIMS, answer_choice, choice_shown
from .design.problems import LARGEST_DOCUMENT
from .documents import report_content, report_pdf
from .enclosure.case_files import case_file
from .figures import as_json
from .measures.bench import TrialBench
from .schools import answer_schools, shown
from .summary import fit_summary, summary
from .traces import (
    RunDown,
    TraceAnswer,
    UnitAsked,
    course_of,
    judge_rundown,
    judge_trace,
    read_recording,
    rundown_text,
    trace_text,
)
from .wiring import wiring_csv, wiring_sheet


def celsius(text: str) -> float:
    """A temperature in which there are batteries; what is none is told by the parser.

    >>> celsius("-10")
    -10.0
    """
    value = float(text)
    if not -60 <= value <= 90:
        raise argparse.ArgumentTypeError("must be from -60 to 90")
    return value


def main() -> int:
    parser = argparse.ArgumentParser(prog="ember evaluate", description="Evaluates a design document.")
    parser.add_argument("file", type=Path, help="a design document (JSON)")
    parser.add_argument("--json", action="store_true", help="print the whole evaluation as JSON")
    parser.add_argument("--savings", action="store_true", help="also what would help most (takes some seconds)")
    parser.add_argument("--report", type=Path, help="write the report there, as PDF")
    parser.add_argument(
        "--schools", action="store_true", help="the same gadget on each of six supplies; with --json whole"
    )
    parser.add_argument(
        "--choose",
        choices=AIMS,
        action="append",
        help="the supplies that no other beats in runtime and this; may be given again",
    )
    parser.add_argument("--parts", action="store_true", help="of --choose: with the parts kept beside others, too")
    parser.add_argument(
        "--bringup", action="store_true", help="what to measure in which order, and what it should read"
    )
    parser.add_argument(
        "--wiring", action="store_true", help="which pin goes to which signal, and the wires of the supply"
    )
    parser.add_argument(
        "--trace",
        type=Path,
        help="a recorded current (CSV, also gzip), cut into the design's modes and held against them",
    )
    parser.add_argument(
        "--rundown", type=Path, help="a run-down test (CSV of time and voltage): when it ends, or why it ended then"
    )
    parser.add_argument("--over", action="store_true", help="the gadget was dead at the end of the run-down")
    parser.add_argument("--at", type=celsius, help="how warm it was meanwhile, in degrees Celsius")
    parser.add_argument("--csv", action="store_true", help="print the bring-up sheet or the wiring as CSV")
    parser.add_argument("--fit", action="store_true", help="only the case: gaps, walls and findings")
    parser.add_argument("--case", type=Path, help="also write the case's pieces there (.stl, .3mf, .obj or .step)")
    arguments = parser.parse_args()
    if arguments.case is not None and arguments.case.suffix.lower() not in (".stl", ".3mf", ".obj", ".step"):
        print(f"{arguments.case}: the case is written as .stl, .3mf, .obj or .step", file=sys.stderr)
        return 2
    try:
        with arguments.file.open("rb") as stream:
            raw = stream.read(LARGEST_DOCUMENT + 1)
        design = read_design(raw)
        if arguments.case is not None:
            arguments.case.write_bytes(case_file(design, arguments.case.suffix[1:].lower()))
    except OSError as error:
        print(f"{error.filename or arguments.file}: {error.strerror}", file=sys.stderr)
        return 2
    except DocumentError as error:
        for problem in error.problems:
            print(f"{arguments.file}: {problem.path or 'the document'}: {problem.message}", file=sys.stderr)
        return 1
    if arguments.schools:
        answers = answer_schools(TrialBench(design, built_in()))
        print(as_json(answers, indent=1).decode() if arguments.json else "\n".join(map(shown, answers)))
        return 0
    if arguments.bringup:
        sheet = bring_up(TrialBench(design, built_in()))
        print(
            as_json(sheet, indent=1).decode()
            if arguments.json
            else sheet_csv(sheet)
            if arguments.csv
            else sheet_text(sheet)
        )
        return 0
    if arguments.wiring:
        wiring = wiring_sheet(TrialBench(design, built_in()))
        print(as_json(wiring, indent=1).decode() if arguments.json else wiring_csv(wiring))
        return 0
    if arguments.trace is not None or arguments.rundown is not None:
        return _recorded(arguments, TrialBench(design, built_in()))
    if arguments.choose:
        choice = answer_choice(TrialBench(design, built_in()), arguments.choose, parts=arguments.parts)
        print(as_json(choice, indent=1).decode() if arguments.json else choice_shown(choice))
        return 0
    result = evaluate(design)
    if arguments.report is not None:
        return _written(arguments.report, report_pdf(design, report_content(design, result, VERSION)))
    if arguments.json:
        print(as_json(result, indent=1).decode())
    else:
        print(fit_summary(result) if arguments.fit else summary(design, result, savings=arguments.savings))
    return 0


def _recorded(arguments: argparse.Namespace, bench: TrialBench) -> int:
    """Prints what a recording, or a run-down, says of a design."""
    path: Path = arguments.trace or arguments.rundown
    try:
        with path.open("rb") as stream:
            recording = read_recording(stream, run_down=arguments.trace is None)
    except OSError as error:
        print(f"{path}: {error.strerror}", file=sys.stderr)
        return 2
    except DocumentError as error:
        print(f"{path}: {error.problems[0].message}", file=sys.stderr)
        return 1
    except UnitAsked as asked:
        print(
            f"{path}: its {asked.column} has no unit in its heading; one of {', '.join(asked.choices)}", file=sys.stderr
        )
        return 1
    answer: TraceAnswer | RunDown
    if arguments.trace is not None:
        answer = judge_trace(recording, bench)
        text = trace_text(answer)
    else:
        answer = judge_rundown(course_of(recording), bench, over=arguments.over or None, at_c=arguments.at)
        text = rundown_text(answer)
    print(as_json(answer, indent=1).decode() if arguments.json else text)
    return 0


def _written(path: Path, content: bytes) -> int:
    try:
        path.write_bytes(content)
    except OSError as error:
        print(f"{path}: {error.strerror}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())

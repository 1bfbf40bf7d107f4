"""An evaluation as text for a terminal, and `python -m ember_core` behind `./ember evaluate`."""

from __future__ import annotations

from .catalogue import built_in
from .design import Design
from .evaluation import Evaluation
from .figures import Figure
from .measures.bench import TrialBench
from .quantities import show
from .studies import answer_remedies, answer_savings

WORDS = {"pass": "pass ", "watch": "watch", "fail": "FAIL ", "unknown": "  ?  "}

MOST_SAVINGS = 5


def _figure(item: Figure) -> str:
    text = show(item.value, item.unit)
    if item.low is not None and item.high is not None:
        text += f"  ({show(item.low, item.unit)} to {show(item.high, item.unit)})"
    return text


def summary(design: Design, result: Evaluation, *, savings: bool = False) -> str:
    """A page of text: the verdicts, each mode's draw, the findings with their ways out; with `savings` what would help most,
    for which dozens of changed designs are evaluated."""
    lines = [design.name, "=" * len(design.name), ""]
    for v in result.verdicts:
        lines.append(f"  [{WORDS[v.status]}] {v.label:<15} {_figure(v.figure):<38} {v.word}")
        lines.append(f"          {v.sentence}")
    lines += ["", "Modes"]
    for mode in result.draw.modes:
        lines.append(
            f"  {design.modes[design.index.modes[mode.mode]].name:<24} {show(mode.battery_current.value, 'A'):>9} mean"
            f"  {show(mode.peak_current.value, 'A'):>9} peak  {mode.day_share:>8.3%} of the day"
            f"  {show(mode.nonstop.value, 'h'):>11} without a pause"
        )
    bench = TrialBench(design, built_in())
    remedies = {r.finding: r.remedy for r in answer_remedies(bench)}
    if result.findings:
        lines += ["", "Findings"]
    for finding in result.findings:
        lines.append(f"  {finding.severity.upper():<6} {finding.title}  [{finding.code}]")
        lines.append(f"         {finding.sentence}")
        if finding.key in remedies:
            remedy = remedies[finding.key]
            lines.append(f"         Way out: {remedy.label}. {remedy.outcome}")
    helping = answer_savings(bench) if savings else []
    for title, habit in (("What would help most", False), ("Other habits", True)):
        own = [s for s in helping if (s.kind == "habit") == habit][:MOST_SAVINGS]
        if own:
            lines += ["", title]
        for saving in own:
            lines.append(
                f"  +{show(saving.gained.value, 'h'):<11} {saving.title}. {saving.sentence} {saving.remedy.outcome}"
            )
    lines += ["", "All figures are estimates for design.", ""]
    return "\n".join(lines)


def fit_summary(result: Evaluation) -> str:
    """The case as text: the gap of every body to what is nearest, what has no place, and the findings about it."""
    fit = result.fit
    inner = " × ".join(show(v, "mm").removesuffix(" mm").removesuffix("\u00a0mm") for v in fit.cavity_mm)
    lines = [
        f"Inside {inner} mm, {show(fit.filled.value, '%')} taken; needs {show(fit.clearance_mm, 'mm')} to the walls",
        "",
    ]
    for body in sorted(fit.bodies, key=lambda b: (b.gap.value or 0.0) - b.needed_mm):
        gap = show(body.gap.value, "mm")
        lines.append(
            f"  [{WORDS[body.status]}] {body.name:<34} {gap:>9} to {body.neighbour}, needs {show(body.needed_mm, 'mm')}"
        )
    lines += [f"  [{WORDS['unknown']}] {body.name:<34} has no place" for body in fit.unplaced]
    if not fit.bodies and not fit.unplaced:
        lines.append("  Nothing has a size yet.")
    about = [f for f in result.findings if f.step == "fit"]
    lines += ["", "Findings"] if about else []
    for finding in about:
        lines += [f"  {finding.severity.upper():<6} {finding.title}  [{finding.code}]", f"         {finding.sentence}"]
    return "\n".join([*lines, ""])

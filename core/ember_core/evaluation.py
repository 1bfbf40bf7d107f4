"""`evaluate`: the one entrance to the computation. Pure: the same design gives the same bytes."""

from __future__ import annotations

from .catalogue import Catalogue, built_in
from .design import FORMAT, Design
from .figures import Finding, Verdict, record
from .findings import find, named
from .measures.bench import TrialBench
from .reports.battery import BatteryReport, RuntimeReport, battery_report, runtime_report
from .reports.charge import ChargeReport, HeatReport, charge_report, heat_report
from .reports.day import DayReport, day_report
from .reports.draw import DrawReport, draw_report
from .reports.fit import FitReport, TotalsReport, fit_report, totals_report
from .reports.guesses import GuessRow, guesses_report
from .reports.hints import Hint, hints_report
from .reports.power import SupplyReport, supply_report
from .reports.swap import SwapReport, swap_report
from .reports.verdicts import all_verdicts
from .solved.electric import Known


@record
class Evaluation:
    """Everything that the interface says about a design, but the remedies (`studies.answer_remedies`)."""

    format: str
    verdicts: list[Verdict]
    findings: list[Finding]
    draw: DrawReport
    supply: SupplyReport
    battery: BatteryReport
    runtime: RuntimeReport
    day: DayReport
    charge: ChargeReport | None
    swap: SwapReport | None
    heat: HeatReport
    fit: FitReport
    totals: TotalsReport
    guesses: list[GuessRow]
    hints: list[Hint]


def evaluate(design: Design, catalogue: Catalogue | None = None, known: Known | None = None) -> Evaluation:
    """Everything there is to say about a design. `catalogue` offers the parts that remedies may use, `known` has what was solved of designs
    that are like it.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> found = evaluate(design)
    >>> [verdict.key for verdict in found.verdicts][:3]
    ['runtime', 'weakest', 'charge']
    """
    bench = TrialBench(design, catalogue or built_in(), known=known or Known())
    found = find(bench)
    return Evaluation(
        format=FORMAT,
        verdicts=all_verdicts(bench, found),
        findings=named(found),
        draw=draw_report(bench),
        supply=supply_report(bench),
        battery=battery_report(bench),
        runtime=runtime_report(bench),
        day=day_report(bench),
        charge=charge_report(bench),
        swap=swap_report(bench),
        heat=heat_report(bench),
        fit=fit_report(bench),
        totals=totals_report(bench),
        guesses=guesses_report(bench),
        hints=hints_report(bench, found),
    )

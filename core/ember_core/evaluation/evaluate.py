"""`evaluate`: the one entrance to the computation. Pure: the same design gives the same bytes."""

from __future__ import annotations

from ..catalogue import Catalogue, built_in
from ..context import Context
from ..design import FORMAT, Design
from ..figures import Finding, Result, Verdict
from ..findings import find
from . import verdicts
from .battery import BatteryReport, RuntimeReport, battery_report, runtime_report
from .charge import ChargeReport, HeatReport, charge_report, heat_report
from .day import DayReport, day_report
from .draw import DrawReport, draw_report
from .fit import FitReport, TotalsReport, fit_report, totals_report
from .power import SupplyReport, supply_report


class Evaluation(Result):
    """Everything that the interface says about a design."""

    format: str
    verdicts: list[Verdict]
    findings: list[Finding]
    draw: DrawReport
    supply: SupplyReport
    battery: BatteryReport
    runtime: RuntimeReport
    day: DayReport
    charge: ChargeReport | None
    heat: HeatReport
    fit: FitReport
    totals: TotalsReport


def evaluate(design: Design, catalogue: Catalogue | None = None) -> Evaluation:
    """Everything there is to say about a design. `catalogue` offers the parts that remedies may use."""
    context = Context(design, catalogue or built_in())
    findings = find(context)
    runtime = runtime_report(context)
    charge, heat = charge_report(context), heat_report(context)
    fit, totals = fit_report(context), totals_report(context)
    return Evaluation(
        format=FORMAT,
        verdicts=[
            verdicts.runtime_verdict(runtime),
            verdicts.weakest_verdict(context),
            verdicts.charge_verdict(context, charge, findings),
            verdicts.heat_verdict(heat),
            verdicts.fit_verdict(context, fit),
            *verdicts.totals_verdicts(design.brief, totals),
        ],
        findings=findings,
        draw=draw_report(context),
        supply=supply_report(context),
        battery=battery_report(context),
        runtime=runtime,
        day=day_report(context),
        charge=charge,
        heat=heat,
        fit=fit,
        totals=totals,
    )

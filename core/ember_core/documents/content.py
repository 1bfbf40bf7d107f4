"""What a report says, chapter by chapter: paragraphs, tables and pictures, from an evaluation. One content for the PDF and for the page.

Nothing is worked out here: figures are the evaluation's, shown as everywhere.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import field, fields
from typing import Annotated, Any, Literal, get_args

from pydantic import Field

from ..design import Design, Mode
from ..enclosure.picture import picture
from ..evaluation import Evaluation
from ..figures import Figure, Severity, record
from ..quantities import show
from ..words import say
from .fall import fall_picture
from .sections import section_pictures

Chapter = Literal[
    "verdicts",
    "draw",
    "supply",
    "battery",
    "charge",
    "runtime",
    "fit",
    "findings",
    "cautions",
    "bill",
    "guesses",
    "workings",
]
CHAPTERS: tuple[Chapter, ...] = get_args(Chapter)
Status = Literal["pass", "watch", "fail", "unknown", ""]


@record
class ReportBlock:
    """A piece of a chapter. `text`: a paragraph. `table`: `head` over `rows`, right-aligned from column `figures` on; `status` marks a row each, where
    there are any. `picture`: an SVG, with what it shows in words, and how wide it is on paper (0: as wide as the text). `finding`: its severity, title and sentence."""

    kind: Literal["text", "table", "picture", "finding"]
    text: str = ""
    title: str = ""
    head: list[str] = field(default_factory=list)
    rows: list[list[str]] = field(default_factory=list)
    status: list[Status] = field(default_factory=list)
    figures: int = 1
    severity: Severity | None = None
    svg: str = ""
    wide_mm: float = 0.0


@record
class ReportChapter:
    key: Chapter
    title: str
    blocks: list[ReportBlock]


@record
class ReportContent:
    """A whole report: what it is of, then its chapters; those with nothing to say are left out."""

    title: str
    summary: str
    core: Annotated[str, Field(description="the version of the core that the figures are from")]
    picture: Annotated[str, Field(description="the gadget, SVG, for a light page")]
    picture_dark: str
    chapters: list[ReportChapter]
    closing: str


def report_content(
    design: Design, result: Evaluation, version: str, chapters: tuple[Chapter, ...] = CHAPTERS
) -> ReportContent:
    """The content of the report of a design and its evaluation, with those chapters."""
    made = []
    for key in CHAPTERS:
        blocks = list(_MAKERS[key](design, result)) if key in chapters else []
        if blocks:
            made.append(ReportChapter(key=key, title=say(f"report-{key}.title"), blocks=blocks))
    return ReportContent(
        title=design.name,
        summary=design.summary,
        core=version,
        picture=picture(design),
        picture_dark=picture(design, dark=True),
        chapters=made,
        closing=say("report.closing"),
    )


def _figure(figure: Figure | None) -> str:
    return "–" if figure is None else show(figure.value, figure.unit)


def _range(figure: Figure) -> str:
    if figure.low is None or figure.high is None:
        return ""
    return say("report.range", low=(figure.low, figure.unit), high=(figure.high, figure.unit))


def _table(
    head: list[str], rows: list[list[str]], *, figures: int = 1, status: list[Status] | None = None, title: str = ""
) -> ReportBlock:
    return ReportBlock(kind="table", head=head, rows=rows, figures=figures, status=status or [], title=title)


def _mode_names(design: Design) -> dict[str, Mode]:
    return {m.id: m for m in design.modes}


def _verdicts(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    rows = [[v.label, _figure(v.figure), _range(v.figure), v.word] for v in result.verdicts]
    head = [say("report.verdict"), say("report.figure"), say("report.expected"), say("report.word")]
    yield _table(head, rows, figures=1, status=[v.status for v in result.verdicts])
    for v in result.verdicts:
        if v.status != "pass":
            yield ReportBlock(kind="text", text=v.sentence)


def _draw(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    if not design.parts:
        return
    modes = _mode_names(design)
    rows = [
        [
            modes[m.mode].name,
            show(m.day_s, "s"),
            _figure(m.battery_current),
            _figure(m.peak_current),
            _figure(m.nonstop),
        ]
        for m in result.draw.modes
    ]
    head = [
        say("report.mode"),
        say("report.a-day"),
        say("report.mean"),
        say("report.peak"),
        say("report.without-a-pause"),
    ]
    yield _table(head, rows, title=say("report.modes"))
    parts = [
        [design.part(p.part).name, _figure(p.current), show(p.share, "share")]
        for p in sorted(result.draw.parts, key=lambda p: -p.share)
    ]
    parts += [[o.name, _figure(o.current), show(o.share, "share")] for o in result.draw.others]
    yield _table([say("report.part"), say("report.on-average"), say("report.share")], parts, title=say("report.parts"))


def _supply(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    stages = {s.id: s.name for s in design.supply.stages}
    rails = {r.id: r.name for r in design.supply.rails}
    rows = [
        [
            stages[s.stage],
            _figure(s.input_voltage),
            _figure(s.output_voltage),
            _figure(s.peak_output_current),
            _figure(s.efficiency),
            _figure(s.loss),
        ]
        for s in result.supply.stages
    ]
    if rows:
        head = [
            say("report.stage"),
            say("report.in"),
            say("report.out"),
            say("report.peak"),
            say("report.efficiency"),
            say("report.loss"),
        ]
        yield _table(head, rows)
    rows = [[rails[r.rail], _figure(r.voltage), _figure(r.current)] for r in result.supply.rails]
    yield _table([say("report.rail"), say("report.voltage"), say("report.on-average")], rows)


def _battery(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    battery, report = design.battery, result.battery
    cells = say("report.cells", cell=battery.cell.name, series=battery.series, parallel=battery.parallel)
    yield ReportBlock(kind="text", text=cells)
    yield _table([say("report.step"), say("report.charge")], [[s.label, _figure(s.charge)] for s in report.steps])
    figures = (report.full_voltage, report.cutoff_voltage, report.resistance, report.peak_current)
    yield _table([say("report.figure"), say("report.value")], [[f.label, _figure(f)] for f in figures])


def _charge(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    report, swap = result.charge, result.swap
    if report is not None and design.charger is not None:
        yield ReportBlock(kind="text", text=design.charger.name)
        found = [f for f in _own(report) if f.value is not None]
        yield _table(
            [say("report.figure"), say("report.value"), say("report.expected")],
            [[f.label, _figure(f), _range(f)] for f in found],
        )
    if swap is not None:
        yield ReportBlock(kind="text", text=swap.sentence)
        found = [f for f in (swap.sets, swap.cost, swap.mass, swap.outside) if f is not None]
        yield _table(
            [say("report.figure"), say("report.value"), say("report.expected")],
            [[f.label, _figure(f), _range(f)] for f in found],
        )


def _runtime(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    report = result.runtime
    yield ReportBlock(
        kind="text", text=" ".join(x for x in (report.sentence, report.typical_sentence, report.cold_sentence) if x)
    )
    if report.timeline.time_h:
        words = say("report.fall", runtime=(report.total.value, "h"))
        yield ReportBlock(kind="picture", svg=fall_picture(report.timeline, report.total), text=words)
    figures = (report.total, report.coldest, report.typical)
    yield _table(
        [say("report.figure"), say("report.value"), say("report.expected")],
        [[f.label, _figure(f), _range(f)] for f in figures],
    )
    yield ReportBlock(kind="text", text=result.day.sentence)


def _fit(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    fit = result.fit
    x, y, z = (f"{v:.3g}" for v in fit.cavity_mm)
    yield ReportBlock(kind="text", text=say("report.inside", x=x, y=y, z=z, filled=(fit.filled.value, fit.filled.unit)))
    rows = [[b.name, _figure(b.gap), show(b.needed_mm, "mm"), b.neighbour] for b in fit.bodies]
    status: list[Status] = [b.status for b in fit.bodies]  # type: ignore[misc]
    if rows:
        yield _table(
            [say("report.body"), say("report.gap"), say("report.needs"), say("report.to")], rows, status=status
        )
    for one in section_pictures(design):
        things = [f"{k}\u00a0{name}" for k, name in enumerate(one.names, start=1)]
        words = say("report.cut", axis=one.axis, at=(one.at_mm, "mm"), true=one.true_size, things=things)
        yield ReportBlock(kind="picture", svg=one.svg, text=words, wide_mm=one.wide_mm)
        yield ReportBlock(kind="text", text=words)
    if fit.unplaced:
        yield ReportBlock(kind="text", text=say("report.unplaced", things=[u.name for u in fit.unplaced]))
    hot = result.heat.nearest
    yield ReportBlock(
        kind="text",
        text=say(
            "report.warmest",
            name=hot.name,
            degrees=(hot.degrees_c, "°C"),
            limit=(hot.limit_c, "°C"),
            when=hot.when,
            air=(hot.air_c, "°C"),
        ),
    )


def _findings(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    for f in result.findings:
        yield ReportBlock(kind="finding", title=f.title, text=f.sentence, severity=f.severity)
    if not result.findings:
        yield ReportBlock(kind="text", text=say("report.no-findings"))


def _cautions(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    for caution in result.battery.cautions:
        noted = say("report.noted", reason=caution.reason) if caution.reason else ""
        yield ReportBlock(kind="text", text=f"{caution.text} {noted}".strip())


def _bill(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    currency, totals = design.brief.currency, result.totals
    rows = [
        [b.name, f"{b.quantity:g}", "" if b.small else show(b.mass_g, "g"), "" if b.small else show(b.cost, currency)]
        for b in totals.bill
    ]
    rows.append([say("report.together"), "", _figure(totals.mass), _figure(totals.cost)])
    yield _table([say("report.thing"), say("report.how-many"), say("report.mass"), say("report.cost")], rows)


def _guesses(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    if result.guesses:
        yield ReportBlock(kind="text", text=say("report.guesses", guesses=len(result.guesses)))
        yield _table(
            [say("report.guess"), say("report.taken"), say("report.share")],
            [[g.title, g.value, show(g.share, "share")] for g in result.guesses],
        )


def _workings(design: Design, result: Evaluation) -> Iterator[ReportBlock]:
    head = [say("report.figure"), say("report.value"), say("report.how"), say("report.source")]
    seen: set[str] = set()
    rows = []
    for figure in figures_of(result):
        mark = f"{figure.label} {figure.value}"
        if figure.value is not None and mark not in seen:
            seen.add(mark)
            inputs = ", ".join(
                f"{i.name} {show(i.value, i.unit)}" for i in figure.working.inputs if i.value is not None
            )
            how = figure.working.formula + (f" ({inputs})" if inputs else "")
            rows.append([figure.label, _figure(figure), how, figure.working.source])
    yield _table(head, rows, figures=4)


def _own(report: Any) -> list[Figure]:
    """The figures of a report itself, in their order."""
    values = (getattr(report, f.name) for f in fields(report))
    return [v for v in values if isinstance(v, Figure)]


def figures_of(result: Evaluation) -> list[Figure]:
    """The figures that the chapters show, in their order."""
    reports = (result.runtime, result.battery, result.charge, result.swap, result.heat, result.fit, result.totals)
    found = [v.figure for v in result.verdicts]
    for report in reports:
        found += _own(report) if report is not None else []
    return found


_MAKERS: dict[Chapter, Callable[[Design, Evaluation], Iterator[ReportBlock]]] = {
    "verdicts": _verdicts, "draw": _draw, "supply": _supply, "battery": _battery, "charge": _charge, "runtime": _runtime, "fit": _fit,
    "findings": _findings, "cautions": _cautions, "bill": _bill, "guesses": _guesses, "workings": _workings,
}  # fmt: skip

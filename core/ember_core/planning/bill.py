"""The bill of materials for one gadget or for a batch: what is needed with its spares, what lies in the drawer, what is to buy, at which price."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from typing import Annotated

from pydantic import Field

from ..bringup.small_parts import SMALL, small_parts
from ..design import Design, Part
from ..design.basics import Model
from ..design.problems import DocumentError, Problem
from ..figures import Figure, figure, record
from ..measures.bench import TrialBench
from ..quantities import show
from ..reports.fit import BillLine, totals_report
from ..wiring import wiring_sheet
from ..words import called, say

MOST_COUNT = 10_000
MOST_BREAK, MOST_PRICE, MOST_BREAKS = 1_000_000, 1e6, 12
FRAGILE = ("display",)  # kinds of parts that break while they are put in
FRAGILE_SPARE, SMALL_SPARE, LEAST_SMALL = 0.1, 0.1, 2  # of what is needed; small things jump off the tweezers
MANY = 5  # from so many gadgets on a fragile part has a spare at all
COUNTED = "/wiring"  # where a line is that no document has
SOURCE = "prices of the design and of the drawer"


class PriceBreak(Model):
    """From so many on each costs this."""

    count: Annotated[int, Field(ge=1, le=MOST_BREAK)]
    each: Annotated[float, Field(ge=0, le=MOST_PRICE)]


class InDrawer(Model):
    """What somebody has of a thing, by the name that it has on the bill, what it costs by how many, and how long it takes to come."""

    name: Annotated[str, Field(min_length=1, max_length=200)]
    on_hand: Annotated[float, Field(ge=0, le=1e6)] = 0
    breaks: Annotated[list[PriceBreak], Field(max_length=MOST_BREAKS)] = []
    lead_days: Annotated[int, Field(ge=0, le=730)] | None = Field(None, description="null: what is usual")


@record
class BatchLine:
    """`price` is of each at that quantity; null: not known. `note` says what is worth knowing of the price or the spares."""

    where: str
    name: str
    each_gadget: float
    spare: float
    on_hand: float
    to_buy: float
    price: float | None
    cost: float | None
    breaks: Annotated[str, Field(description="as they are typed: 10: 0.80; 100: 0.62")]
    lead_days: int | None
    note: str


@record
class BatchBill:
    count: int
    currency: str
    lines: list[BatchLine]
    cost: Figure
    cost_each: Figure
    unknown: Annotated[int, Field(description="lines to buy without a price")]


BREAK = re.compile(r"(\d{1,7})\s*[:=]\s*(\d+(?:[.,]\d+)?)")


def read_breaks(text: str) -> list[PriceBreak]:
    """Prices by how many, as “10: 0.80; 100: 0.62”. Raises DocumentError.

    >>> [(b.count, b.each) for b in read_breaks("10: 0.80; 100: 0.62")]
    [(10, 0.8), (100, 0.62)]
    """
    found = [
        PriceBreak(count=int(m.group(1)), each=float(m.group(2).replace(",", ".")))
        for m in BREAK.finditer(text)
        if 0 < int(m.group(1)) <= MOST_BREAK and float(m.group(2).replace(",", ".")) <= MOST_PRICE
    ]
    left = BREAK.sub("", text).strip(" ;,\t\n")
    if (
        left
        or len(found) != len(BREAK.findall(text))
        or len({b.count for b in found}) != len(found)
        or len(found) > MOST_BREAKS
    ):
        raise DocumentError([Problem("/breaks", say("bill.breaks"))])
    return sorted(found, key=lambda b: b.count)


def breaks_text(breaks: list[PriceBreak]) -> str:
    """Prices by how many, as `read_breaks` reads them.

    >>> breaks_text(read_breaks("10: 0.80; 100: 0.62"))
    '10: 0.8; 100: 0.62'
    """
    return "; ".join(f"{b.count}: {b.each:g}" for b in breaks)


def order(bench: TrialBench, drawer: list[InDrawer], count: int, *, spares: bool = True) -> BatchBill:
    """What so many of a gadget ask for: its bill, and the small things that its wiring needs and its bill lacks.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> order(bench, [], 3).count
    3
    """
    small = [
        BillLine(where=COUNTED, name=p.name, quantity=p.missing, mass_g=0.0, cost=p.cost, small=True)
        for p in small_parts(bench, wiring_sheet(bench)).parts
        if p.missing
    ]
    return batch_bill(bench.design, totals_report(bench).bill + small, count, drawer, spares=spares)


def batch_bill(
    design: Design, bill: list[BillLine], count: int, drawer: list[InDrawer], *, spares: bool = True
) -> BatchBill:
    """The bill of so many gadgets (1 to `MOST_COUNT`); lines of one name are one, and what comes along on a board is on none.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.reports.fit import totals_report
    >>> bill = batch_bill(design, totals_report(bench).bill, 10, [])
    >>> [(x.name, x.each_gadget, x.to_buy) for x in bill.lines[:1]]
    [('Dual-core controller without radio (CM-2D)', 1, 10.0)]
    """
    known = {d.name: d for d in drawer}
    merged: dict[str, BillLine] = {}
    for line in bill:
        own = _part(design, line)
        if own is not None and own.parasitic:
            continue
        before = merged.get(line.name)
        merged[line.name] = line if before is None else _both(before, line)
    lines = [_line(design, line, count, known.get(line.name), spares) for line in merged.values()]
    cost = math.fsum(x.cost or 0.0 for x in lines)
    currency = design.brief.currency
    inputs: list[tuple[str, float | None, str]] = [(called("gadgets"), float(count), "")]
    return BatchBill(
        count=count,
        currency=currency,
        lines=lines,
        cost=figure("batch-cost", cost, currency, inputs, SOURCE),
        cost_each=figure(
            "batch-cost-each", cost / count, currency, [(called("in-all"), cost, currency), *inputs], SOURCE
        ),
        unknown=sum(x.to_buy > 0 and x.price is None for x in lines),
    )


def _both(one: BillLine, other: BillLine) -> BillLine:
    return BillLine(
        where=one.where, name=one.name, quantity=one.quantity + other.quantity, mass_g=one.mass_g + other.mass_g,
        cost=one.cost + other.cost, small=one.small and other.small,
    )  # fmt: skip


def _line(design: Design, line: BillLine, count: int, own: InDrawer | None, spares: bool) -> BatchLine:
    needed = line.quantity * count
    part = _part(design, line)
    small = line.small or (part is not None and part.id.startswith(SMALL))
    fragile = part is not None and part.kind in FRAGILE
    spare = _spare(needed, count, small=small, fragile=fragile) if spares else 0
    on_hand = own.on_hand if own else 0.0
    to_buy = max(needed + spare - on_hand, 0.0)
    breaks = sorted(own.breaks, key=lambda b: b.count) if own else []
    usual = line.cost / line.quantity if line.quantity and (line.cost > 0 or not line.small) else None
    price = _price(breaks, to_buy, usual)
    cost = None if price is None else price * to_buy
    return BatchLine(
        where=line.where,
        name=line.name,
        each_gadget=line.quantity,
        spare=float(spare),
        on_hand=on_hand,
        to_buy=to_buy,
        price=price,
        cost=cost,
        breaks=breaks_text(breaks),
        lead_days=own.lead_days if own else None,
        note=" ".join(_notes(line, _cheaper(breaks, to_buy, cost), to_buy, spare, design.brief.currency, small=small)),
    )


def _spare(needed: float, count: int, *, small: bool, fragile: bool) -> int:
    if small:
        return max(math.ceil(SMALL_SPARE * needed), LEAST_SMALL)
    return math.ceil(FRAGILE_SPARE * needed) if fragile and count >= MANY else 0


def _part(design: Design, line: BillLine) -> Part | None:
    place = line.where.removeprefix("/parts/")
    return design.parts[int(place)] if place.isdigit() else None


def _price(breaks: list[PriceBreak], to_buy: float, usual: float | None) -> float | None:
    """Of each at a quantity: that of the highest break that it reaches; below the first one what the design says, or the first one's."""
    reached = [b.each for b in breaks if b.count <= to_buy]
    if reached:
        return reached[-1]
    return usual if usual is not None else (breaks[0].each if breaks else None)


def _cheaper(breaks: list[PriceBreak], to_buy: float, cost: float | None) -> PriceBreak | None:
    """The first break whose least count costs less than the fewer that are needed."""
    if cost is None or to_buy <= 0:
        return None
    return next((b for b in breaks if b.count > to_buy and b.count * b.each < cost), None)


def _notes(
    line: BillLine, cheaper: PriceBreak | None, to_buy: float, spare: int, currency: str, *, small: bool
) -> Iterator[str]:
    if line.where == COUNTED:
        yield say("bill.counted")
    if cheaper is not None:
        cost = (cheaper.count * cheaper.each, currency)
        yield say("bill.cheaper", count=(cheaper.count, ""), cost=cost, asked=(to_buy, ""))
    if spare:
        yield say("bill.spare-small" if small else "bill.spare-fragile", spare=(spare, ""))


def batch_table(bill: BatchBill) -> list[list[str | float]]:
    """Head and rows as a table; the last two columns are left to whoever orders.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.reports.fit import totals_report
    >>> table = batch_table(batch_bill(design, totals_report(bench).bill, 10, []))
    >>> table[0][:2], len({len(row) for row in table})
    (['name', 'each gadget'], 1)
    """
    head: list[str | float] = [
        "name", "each gadget", "spare", "in the drawer", "to buy", f"price each [{bill.currency}]", f"cost [{bill.currency}]", "note", "supplier", "order number",
    ]  # fmt: skip
    rows: list[list[str | float]] = [
        [x.name, x.each_gadget, x.spare, x.on_hand, x.to_buy, "" if x.price is None else round(x.price, 4),
         "" if x.cost is None else round(x.cost, 2), x.note, "", ""]
        for x in bill.lines
    ]  # fmt: skip
    total: list[str | float] = [
        f"for {show(bill.count, '')}",
        "",
        "",
        "",
        "",
        "",
        round(bill.cost.value or 0.0, 2),
        "",
        "",
        "",
    ]
    return [head, *rows, total]

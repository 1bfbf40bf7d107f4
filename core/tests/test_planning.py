"""What has to be bought for how many, by hand; plans by hand, on every demo, ticked off and moved; tables and calendars read back by other libraries."""

from __future__ import annotations

import csv
import io
import unittest
from datetime import UTC, date, datetime, timedelta
from typing import Any

import vobject
from odf.opendocument import load
from odf.table import TableCell, TableRow
from odf.teletype import extractText
from openpyxl import load_workbook
from pydantic import ValidationError

from ember_core import DocumentError
from ember_core.bringup.small_parts import small_parts
from ember_core.catalogue import built_in
from ember_core.design.patches import apply_patch, replace
from ember_core.measures.bench import TrialBench
from ember_core.planning import (
    BatchBill,
    BuildPlan,
    InDrawer,
    PlanState,
    PriceBreak,
    as_csv,
    as_ods,
    as_xlsx,
    batch_bill,
    batch_table,
    build_plan,
    order,
    plan_calendar,
    read_breaks,
)
from ember_core.planning.bill import MANY
from ember_core.planning.plan import (
    LONGEST_RUN_DOWN_DAYS,
    PRINTER_H_A_DAY,
    SHORT_RUN_DOWN_DAYS,
    USUAL_DAYS,
    _ranks,
    _Task,
)
from ember_core.reports.fit import BillLine, totals_report
from ember_core.wiring import wiring_sheet

from .gadgets import asleep, design, part, plain, state, use
from .test_wiring import DEMOS, bench

CHIP, FACE = part("chip", state("on", 1e-3), cost=2.0), part("face", state("on", 1e-3), kind="display", cost=5.0)
GADGET = design(parts=[CHIP, FACE], modes=asleep(use("chip", "on")), day={"rest": "asleep"})
BILL = [
    BillLine(where="/parts/0", name="Chip", quantity=2, mass_g=1, cost=4.0),
    BillLine(where="/parts/1", name="Display", quantity=1, mass_g=1, cost=5.0),
    BillLine(where="/enclosure/fastenings", name="Screw M2", quantity=4, mass_g=0, cost=0, small=True),
]
MONDAY = date(2026, 3, 2)


def line(count: int, name: str, *drawer: InDrawer, **more: Any) -> Any:
    return next(x for x in batch_bill(GADGET, BILL, count, list(drawer), **more).lines if x.name == name)


class Bills(unittest.TestCase):
    def test_ten_of_them_by_hand(self) -> None:
        bill = batch_bill(GADGET, BILL, 10, [InDrawer(name="Chip", on_hand=3)])
        self.assertEqual([(x.spare, x.to_buy) for x in bill.lines], [(0, 17), (1, 11), (4, 44)])
        self.assertEqual([x.price for x in bill.lines], [2.0, 5.0, None])
        self.assertAlmostEqual(bill.cost.value or 0, 17 * 2 + 11 * 5)
        self.assertAlmostEqual(bill.cost_each.value or 0, 8.9)
        self.assertEqual(bill.unknown, 1)

    def test_spares_only_where_things_break_or_jump(self) -> None:
        self.assertEqual([line(n, "Display").spare for n in (MANY - 1, MANY, 20, 21)], [0, 1, 2, 3])
        self.assertEqual([line(n, "Screw M2").spare for n in (1, 10)], [2, 4])
        self.assertEqual(line(100, "Chip").spare, 0)
        self.assertEqual(line(10, "Screw M2", spares=False).spare, 0)

    def test_prices_by_how_many_on_both_sides_of_a_break(self) -> None:
        own = InDrawer(name="Chip", breaks=[PriceBreak(count=100, each=1.0), PriceBreak(count=10, each=1.5)])
        for count, price in ((4, 2.0), (5, 1.5), (49, 1.5), (50, 1.0)):
            self.assertEqual(line(count, "Chip", own).price, price, count)
        known = InDrawer(name="Screw M2", breaks=[PriceBreak(count=50, each=0.02)])
        self.assertEqual(line(1, "Screw M2", known).price, 0.02)

    def test_more_that_cost_less_are_told(self) -> None:
        own = InDrawer(name="Chip", breaks=[PriceBreak(count=10, each=1.5)])
        self.assertIn("10 cost 15.00 EUR, less than the 8", plain(line(4, "Chip", own).note))  # 8 cost 16
        self.assertNotIn("cost", line(3, "Chip", own).note)  # 6 cost 12

    def test_a_full_drawer_buys_nothing_and_names_that_are_twice_are_one(self) -> None:
        self.assertEqual(line(5, "Chip", InDrawer(name="Chip", on_hand=10)).to_buy, 0)
        self.assertEqual(line(5, "Chip", InDrawer(name="Chip", on_hand=9)).to_buy, 1)
        twice = batch_bill(GADGET, [BILL[0], BILL[0]], 1, [])
        self.assertEqual([(x.each_gadget, x.cost) for x in twice.lines], [(4, 8.0)])

    def test_what_comes_along_on_a_board_is_not_bought(self) -> None:
        own = bench("dusk-ear")
        names = [x.name for x in batch_bill(own.design, totals_report(own).bill, 1, []).lines]
        along = [p.name for p in own.design.parts if p.parasitic]
        self.assertTrue(along)
        self.assertFalse(set(along) & set(names))

    def test_one_of_every_demo_costs_what_its_bill_says(self) -> None:
        for name in DEMOS:
            own = bench(name)
            totals = totals_report(own)
            bill = batch_bill(own.design, totals.bill, 1, [])
            self.assertAlmostEqual(bill.cost.value or 0, totals.cost.value or 0, places=6)

    def test_what_the_wiring_asks_for_is_ordered_whether_it_is_on_the_bill_or_not(self) -> None:
        own = bench("dusk-ear")
        small = small_parts(own, wiring_sheet(own))
        self.assertIn(3, [p.missing for p in small.parts])
        assert small.way is not None
        put_on = TrialBench(apply_patch(own.design, small.way.patch), built_in())
        at = put_on.design.index.parts["small-cap-100n"]
        fewer = TrialBench(apply_patch(put_on.design, [replace(f"/parts/{at}/quantity", 1)]), built_in())
        names = {p.name for p in small.parts if p.missing}
        told = [
            {x.name: (x.each_gadget, x.spare, x.to_buy, round(x.cost or 0, 6)) for x in found.lines if x.name in names}
            for found in (order(x, [], 10) for x in (own, put_on, fewer))
        ]
        self.assertEqual(set(told[0]), names)
        self.assertEqual(told[0], told[1])
        self.assertEqual(told[0], told[2])
        ceramics = next(v for k, v in told[0].items() if k.startswith("Capacitor 100"))
        self.assertEqual(ceramics, (3, 3, 33, 1.65))  # three chips, a tenth to lose, 5 cents each
        counted = [x for x in order(own, [], 10).lines if "wiring asks" in x.note]
        self.assertEqual({x.name for x in counted}, names)


class Breaks(unittest.TestCase):
    def test_as_people_type_them(self) -> None:
        for text in ("10: 0.80; 100: 0.62", "100=0.62,10=0.8", "10:0,80 100:0,62", " 10 : 0.8 ;100: 0.62; "):
            self.assertEqual([(b.count, b.each) for b in read_breaks(text)], [(10, 0.8), (100, 0.62)], text)
        self.assertEqual(read_breaks("  "), [])

    def test_what_is_none_is_said(self) -> None:
        for text in (
            "ten: 1",
            "10",
            "10: 1; 10: 2",
            "0: 1",
            "10: x",
            "10: -1",
            "99999999: 1",
            "5: 2000000",
            "; ".join(f"{k}: 1" for k in range(1, 14)),
        ):
            with self.assertRaises(DocumentError, msg=text):
                read_breaks(text)


class Tables(unittest.TestCase):
    ROWS = batch_table(batch_bill(GADGET, [*BILL, BillLine(where="/x", name="=1+1, \"quoted\"; ü", quantity=1, mass_g=0, cost=1)], 3, []))  # fmt: skip

    def test_csv_disarms_what_would_be_a_formula(self) -> None:
        rows = list(csv.reader(io.StringIO(as_csv(self.ROWS).decode())))
        self.assertEqual(len(rows), len(self.ROWS))
        self.assertTrue(rows[4][0].startswith("'="))
        self.assertEqual(float(rows[1][4]), self.ROWS[1][4])

    def test_xlsx_read_back_by_another_library(self) -> None:
        sheet = load_workbook(io.BytesIO(as_xlsx(self.ROWS, "Bell [1]: all?"))).active
        found = [["" if c.value is None else c.value for c in row] for row in sheet.iter_rows()]
        self.assertEqual(found, self.ROWS)
        self.assertEqual(sheet.cell(5, 1).data_type, "s")  # no formula

    def test_ods_read_back(self) -> None:
        table = load(io.BytesIO(as_ods(self.ROWS, "Bell")))
        found = []
        for row in table.getElementsByType(TableRow):
            cells = row.getElementsByType(TableCell)
            found.append(
                [
                    float(c.getAttribute("value")) if c.getAttribute("valuetype") == "float" else extractText(c)
                    for c in cells
                ]
            )
        self.assertEqual(found, [[float(c) if not isinstance(c, str) else c for c in row] for row in self.ROWS])


def plan_of(name: str, today: date = MONDAY, drawer: tuple[InDrawer, ...] = (), **more: Any) -> BuildPlan:
    own = bench(name)
    bill = batch_bill(own.design, totals_report(own).bill, 1, list(drawer))
    return build_plan(own, bill, PlanState(**({"start": MONDAY} | more)), today)


def bill_of(name: str) -> BatchBill:
    own = bench(name)
    return batch_bill(own.design, totals_report(own).bill, 1, [])


class Plans(unittest.TestCase):
    def test_nothing_begins_before_what_it_waits_for(self) -> None:
        for name in DEMOS:
            for hours in (0.5, 2.0, 8.0):
                plan = plan_of(name, hours_a_day=hours)
                by_key = {t.key: t for t in plan.tasks}
                self.assertEqual(plan.ends, max(t.ends for t in plan.tasks))
                for task in plan.tasks:
                    self.assertLessEqual(task.begins, task.ends)
                    for other in task.after:
                        self.assertLessEqual(by_key[other].ends, task.begins, f"{name}: {task.key} after {other}")

    def test_hands_and_printer_are_never_busy_beyond_their_hours(self) -> None:
        for name in DEMOS:
            plan = plan_of(name, hours_a_day=1.0)
            for resource, hours in (("hands", 1.0), ("printer", PRINTER_H_A_DAY)):
                own = [t for t in plan.tasks if t.resource == resource]
                work = sum(t.hours for t in own)
                days = {t.begins + timedelta(days=k) for t in own for k in range((t.ends - t.begins).days + 1)}
                self.assertGreaterEqual(len(days) * hours + 1e-9, work)

    def test_dusk_ear_by_hand(self) -> None:
        """Parts come on Saturday (five days). Two hours a day at the bench from then on; charge and run-down follow."""
        plan = plan_of("dusk-ear")
        by_key = {t.key: t for t in plan.tasks}
        self.assertEqual(by_key[f"order-{USUAL_DAYS}"].begins, MONDAY)
        self.assertEqual(by_key[f"order-{USUAL_DAYS}"].ends, MONDAY + timedelta(days=USUAL_DAYS))
        self.assertEqual(by_key["solder"].begins, MONDAY + timedelta(days=USUAL_DAYS))
        printed = [t for t in plan.tasks if t.resource == "printer"]
        self.assertEqual(len(printed), 2)
        self.assertTrue(all(t.begins == MONDAY for t in printed))
        hours = by_key["solder"].hours + by_key["bring-up"].hours + by_key["close"].hours
        at_bench = -(-hours // 2.0)  # whole days of two hours
        self.assertEqual(by_key["close"].ends, MONDAY + timedelta(days=USUAL_DAYS + at_bench - 1))
        self.assertEqual(by_key["run-down"].days, bench("dusk-ear").runtime_s / 86400)
        self.assertEqual(plan.today, [t.key for t in plan.tasks if t.begins == MONDAY])
        self.assertIn(plan.ends.isoformat(), plan.sentence)

    def test_the_longest_way_to_the_end_by_hand(self) -> None:
        """Four hours of hands are two days, 28 of the printer two more, and what is waited for five."""
        tasks = [
            _Task("wait", "waiting", "", "", days=5),
            _Task("print", "printer", "", "", hours=28, after=["wait"]),
            _Task("solder", "hands", "", "", hours=4, after=["print"]),
        ]
        self.assertEqual(_ranks(tasks), {"wait": 9, "print": 4, "solder": 2})

    def test_what_may_slip_and_what_may_not(self) -> None:
        """Moved by its slack nothing is done later; by a day more everything is."""
        plan = plan_of("dusk-ear")
        for task in plan.tasks:
            later = task.begins + timedelta(days=task.slack_days)
            self.assertLessEqual(plan_of("dusk-ear", not_before={task.key: later}).ends, plan.ends, task.key)
        orders = next(t for t in plan.tasks if t.key.startswith("order"))
        self.assertEqual(orders.slack_days, 0)
        moved = plan_of("dusk-ear", not_before={orders.key: MONDAY + timedelta(days=1)})
        self.assertEqual(moved.ends, plan.ends + timedelta(days=1))

    def test_a_drawer_that_has_it_all_orders_nothing(self) -> None:
        own = bill_of("dusk-ear")
        full = tuple(InDrawer(name=x.name, on_hand=1000) for x in own.lines)
        keys = [t.key for t in plan_of("dusk-ear", drawer=full).tasks]
        self.assertFalse([k for k in keys if k.startswith("order")])
        slow = (InDrawer(name=own.lines[0].name, lead_days=21),)
        first = plan_of("dusk-ear", drawer=slow).tasks
        self.assertEqual({t.key for t in first if t.key.startswith("order")}, {"order-21", f"order-{USUAL_DAYS}"})

    def test_ticked_off_late_and_in_time(self) -> None:
        plan = plan_of("dusk-ear")
        late = plan_of("dusk-ear", today=MONDAY + timedelta(days=4))  # nothing was ordered yet
        self.assertEqual(late.ends, plan.ends + timedelta(days=4))
        self.assertIn("4 days later than first planned", plain(late.sentence))
        order = f"order-{USUAL_DAYS}"
        done = plan_of("dusk-ear", today=MONDAY + timedelta(days=4), done={order: MONDAY + timedelta(days=3)})
        self.assertLess(done.ends, plan.ends + timedelta(days=1))
        self.assertNotIn(order, done.today)
        everything = {t.key: MONDAY for t in plan.tasks}
        self.assertIn("All of it is done", plan_of("dusk-ear", done=everything).sentence)
        for off, said in ((-1, "too late"), (0, "Just in time"), (1, "One day to spare")):
            self.assertIn(said, plan_of("dusk-ear", wanted=plan.ends + timedelta(days=off)).sentence)

    def test_years_of_waiting_are_waited(self) -> None:
        late = date(2063, 7, 1)
        moved = plan_of("dusk-ear", not_before={"solder": late})
        by_key = {t.key: t for t in moved.tasks}
        self.assertEqual(by_key["solder"].begins, late)
        usual = {t.key: t for t in plan_of("dusk-ear").tasks}
        self.assertEqual(moved.ends - late, plan_of("dusk-ear").ends - usual["solder"].begins)
        far = [InDrawer(name=x.name, lead_days=730) for x in bill_of("dusk-ear").lines]
        self.assertGreater(plan_of("dusk-ear", drawer=tuple(far)).ends, MONDAY + timedelta(days=730))

    def test_days_that_can_not_be_are_refused(self) -> None:
        for wrong in (
            {"start": date(1999, 12, 31)},
            {"wanted": date(2200, 1, 1)},
            {"done": {"x": date(1, 1, 1)}},
            {"done": {"x" * 121: MONDAY}},
        ):
            with self.assertRaises(ValidationError):
                PlanState(**({"start": MONDAY} | wrong))  # type: ignore[arg-type]

    def test_a_long_run_down_is_cut_short(self) -> None:
        for name in DEMOS:
            days = bench(name).runtime_s / 86400
            task = next(t for t in plan_of(name).tasks if t.key == "run-down")
            self.assertEqual(task.days, days if days <= LONGEST_RUN_DOWN_DAYS else SHORT_RUN_DOWN_DAYS)

    def test_what_is_not_there_any_more_counts_for_nothing(self) -> None:
        odd = {"gone": MONDAY}
        self.assertEqual(plan_of("dusk-ear", done=odd, not_before=odd).ends, plan_of("dusk-ear").ends)

    def test_the_calendar_read_back_by_another_library(self) -> None:
        plan = plan_of("dusk-ear", done={"solder": MONDAY})
        raw = plan_calendar(plan, "Dusk Ear, für “alle”; 100 %", "k1", datetime(2026, 3, 2, 8, tzinfo=UTC))
        found = vobject.readOne(raw.decode())
        events = {e.uid.value: e for e in found.vevent_list}
        open_tasks = [t for t in plan.tasks if t.done is None]
        self.assertEqual(set(events), {f"k1-{t.key}@frugal-ember" for t in open_tasks})
        for task in open_tasks:
            event = events[f"k1-{task.key}@frugal-ember"]
            self.assertEqual(event.dtstart.value, task.begins)
            self.assertEqual(event.dtend.value, task.ends + timedelta(days=1))
            self.assertIn(task.title, event.summary.value)
        self.assertTrue(all(len(x) <= 75 for x in raw.split(b"\r\n")))

"""A build plan as a calendar (iCalendar, RFC 5545): a day-long event for each thing that is not done."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from icalendar import Calendar, Event

from .plan import BuildPlan

PRODUCT = "-//Frugal Ember//build plan//EN"


def plan_calendar(plan: BuildPlan, gadget: str, key: str, made: datetime) -> bytes:
    """`key` keeps the events of one plan apart from those of others, and the same over time.

    >>> from datetime import date
    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> from ember_core.measures.bench import TrialBench
    >>> bench = TrialBench(design, built_in())
    >>> from ember_core.reports.fit import totals_report
    >>> from ember_core.planning import PlanState, batch_bill, build_plan
    >>> bill = batch_bill(design, totals_report(bench).bill, 1, [])
    >>> plan = build_plan(bench, bill, PlanState(start=date(2026, 3, 2)), date(2026, 3, 2))
    >>> plan_calendar(plan, "Gadget", "plan", datetime(2026, 3, 2)).count(b"BEGIN:VEVENT") == len(plan.tasks)
    True
    """
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("name", gadget)
    calendar.add("x-wr-calname", gadget)
    for task in plan.tasks:
        if task.done is not None:
            continue
        event = Event()
        event.add("uid", f"{key}-{task.key}@frugal-ember")
        event.add("dtstamp", made.astimezone(UTC))
        event.add("dtstart", task.begins)
        event.add("dtend", max(task.ends, task.begins) + timedelta(days=1))  # the first day that is not part of it
        event.add("summary", f"{gadget}: {task.title}")
        event.add("description", task.how)
        event.add("transp", "TRANSPARENT")
        calendar.add_component(event)
    whole: bytes = calendar.to_ical()
    return whole

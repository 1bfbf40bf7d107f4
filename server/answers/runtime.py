"""How long it runs: the range, over temperature and years, intervals, the firmware's table, a day, and what would help most."""

from __future__ import annotations

from typing import Annotated

from ninja import Query, Router, Schema
from pydantic import Field

from common.requests import DESIGN_BODY, SignedIn
from ember_core.studies import (
    DayTrace,
    IntervalCurve,
    Outlook,
    RangeAnswer,
    Saving,
    SocTable,
    Stack,
    answer_day,
    answer_intervals,
    answer_outlook,
    answer_range,
    answer_savings,
    answer_soc_table,
    stack_savings,
)

from .asked import asked

router = Router(tags=["answers"])


@router.post("/answers/range", response=RangeAnswer | None, openapi_extra=DESIGN_BODY)
def ask_for_range(request: SignedIn) -> RangeAnswer | None:
    """The runtime's range from many samples, and what to measure next. Null while nothing is drawn."""
    return answer_range(asked(request))


@router.post("/answers/outlook", response=Outlook | None, openapi_extra=DESIGN_BODY)
def ask_for_outlook(request: SignedIn) -> Outlook | None:
    """The runtime over temperature and over the years. Null while nothing is drawn."""
    return answer_outlook(asked(request))


@router.post("/answers/intervals", response=list[IntervalCurve], openapi_extra=DESIGN_BODY)
def ask_for_intervals(request: SignedIn) -> list[IntervalCurve]:
    """The runtime against the interval of each wake that matters, and where its knee is."""
    return answer_intervals(asked(request))


@router.post("/answers/soc-table", response=SocTable | None, openapi_extra=DESIGN_BODY)
def ask_for_soc_table(request: SignedIn) -> SocTable | None:
    """Voltage to charge for the firmware, also as CSV and C header. Null while nothing is drawn."""
    return answer_soc_table(asked(request))


class DayQuery(Schema):
    charge: float = Field(0.5, ge=1e-3, le=1, description="state of charge at midnight, 0..1")
    day: int = Field(0, ge=0, lt=365, description="day of the year; 0 is a Monday in January")


@router.post("/answers/day", response=DayTrace | None, openapi_extra=DESIGN_BODY)
def ask_for_day(request: SignedIn, which: Query[DayQuery]) -> DayTrace | None:
    """One day at the battery, event by event. Null while nothing is drawn."""
    return answer_day(asked(request), which.charge, which.day)


@router.post("/answers/savings", response=list[Saving], openapi_extra=DESIGN_BODY)
def ask_for_savings(request: SignedIn) -> list[Saving]:
    """What would help most: measures of the design in the body, each by itself."""
    return answer_savings(asked(request))


class StackQuery(Schema):
    key: list[Annotated[str, Field(max_length=200)]] = Field(
        max_length=40, description="measures, in the order of applying"
    )


@router.post("/answers/savings/stack", response=Stack, openapi_extra=DESIGN_BODY)
def ask_for_stack(request: SignedIn, picked: Query[StackQuery]) -> Stack:
    """Measures one on top of the other: what each brings there, and all together."""
    return stack_savings(asked(request), picked.key)

"""The drawer, bills for a batch, and build plans with their calendars."""

from __future__ import annotations

import hashlib
from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from common.requests import SignedIn
from ember_core.planning import (
    BatchBill,
    BuildPlan,
    InDrawer,
    PlanState,
    as_csv,
    as_ods,
    as_xlsx,
    batch_table,
    order,
    read_breaks,
)
from ember_core.planning.bill import MOST_COUNT

from . import planning
from .access import Role, plan_by, role_of, variant_for
from .downloads import as_file
from .models import Variant

CALENDAR = "text/calendar; charset=utf-8"
FEED_S = 900  # a calendar need not ask more often
KINDS = {
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "ods": "application/vnd.oasis.opendocument.spreadsheet",
}

router = Router(tags=["planning"])


class BatchQuery(Schema):
    count: int = Field(1, ge=1, le=MOST_COUNT, description="gadgets")
    spares: bool = True


class DrawerEdit(Schema):
    name: str = Field(min_length=1, max_length=200)
    on_hand: float = Field(0, ge=0, le=1e6)
    breaks: str = Field("", max_length=400, description="prices by how many: 10: 0.80; 100: 0.62")
    lead_days: int | None = Field(None, ge=0, le=730)


class PlanOut(Schema):
    """A plan with what is said of it; `feed` is the secret of its calendar, null where it has none."""

    plan: BuildPlan
    state: PlanState
    feed: str | None
    role: Role = Field(description="what you may do with the gadget")

    @classmethod
    def of(cls, request: SignedIn, variant: Variant) -> PlanOut:
        role = role_of(request.user, variant.project)
        feed = planning.feed_of(variant) if role != "view" else None  # who has it sees the plan for ever
        return cls(plan=planning.plan_of(request.user, variant), state=planning.state_of(variant), feed=feed, role=role)


@router.get("/drawer", response=list[InDrawer])
def list_drawer(request: SignedIn) -> list[InDrawer]:
    return planning.drawer_of(request.user)


@router.put("/drawer", response=list[InDrawer])
def keep_in_drawer(request: SignedIn, body: DrawerEdit) -> list[InDrawer]:
    """What is known of one thing, in place of what was known."""
    item = InDrawer(name=body.name, on_hand=body.on_hand, breaks=read_breaks(body.breaks), lead_days=body.lead_days)
    planning.keep_in_drawer(request.user, item)
    return planning.drawer_of(request.user)


def _bill(request: SignedIn, variant_id: int, query: BatchQuery) -> tuple[Variant, BatchBill]:
    variant = variant_for(request.user, variant_id, "view")
    assert variant.head is not None
    bench = planning.bench_of(request.user, variant.head)
    return variant, order(bench, planning.drawer_of(request.user), query.count, spares=query.spares)


@router.get("/variants/{variant_id}/batch", response=BatchBill)
def read_batch(request: SignedIn, variant_id: int, query: Query[BatchQuery]) -> BatchBill:
    """What has to be bought for so many gadgets, with what lies in one's own drawer."""
    return _bill(request, variant_id, query)[1]


@router.get("/variants/{variant_id}/batch/{kind}", response={200: bytes})
def export_batch(
    request: SignedIn, variant_id: int, kind: Literal["csv", "xlsx", "ods"], query: Query[BatchQuery]
) -> HttpResponse:
    variant, bill = _bill(request, variant_id, query)
    rows, name = batch_table(bill), variant.project.name
    content = as_csv(rows) if kind == "csv" else as_xlsx(rows, name) if kind == "xlsx" else as_ods(rows, name)
    return as_file(content, KINDS[kind], name, f"-for-{query.count}.{kind}")


@router.get("/variants/{variant_id}/plan", response=PlanOut)
def read_plan(request: SignedIn, variant_id: int) -> PlanOut:
    return PlanOut.of(request, variant_for(request.user, variant_id, "view"))


@router.put("/variants/{variant_id}/plan", response=PlanOut)
def keep_plan(request: SignedIn, variant_id: int, body: PlanState) -> PlanOut:
    return PlanOut.of(request, planning.keep_plan(request.user, variant_id, body))


@router.post("/variants/{variant_id}/plan/feed", response=PlanOut)
def make_feed(request: SignedIn, variant_id: int) -> PlanOut:
    """A secret address for a calendar, in place of the one before."""
    return PlanOut.of(request, planning.set_feed(request.user, variant_id, on=True))


@router.delete("/variants/{variant_id}/plan/feed", response=PlanOut)
def take_back_feed(request: SignedIn, variant_id: int) -> PlanOut:
    return PlanOut.of(request, planning.set_feed(request.user, variant_id, on=False))


@router.get("/variants/{variant_id}/plan.ics", response={200: str})
def export_plan(request: SignedIn, variant_id: int) -> HttpResponse:
    """The plan as a calendar file."""
    variant = variant_for(request.user, variant_id, "view")
    return as_file(planning.calendar_of(variant), CALENDAR, variant.project.name, ".ics")


@router.get("/calendars/{secret}.ics", response={200: str}, auth=None)
def read_feed(request: HttpRequest, secret: str) -> HttpResponse:
    """The same for a calendar that asks by itself."""
    content = planning.calendar_of(plan_by(secret).variant)
    tag = f'"{hashlib.sha256(content).hexdigest()[:32]}"'
    same = tag in request.headers.get("If-None-Match", "")
    response = HttpResponse(status=304) if same else HttpResponse(content, content_type=CALENDAR)
    response.headers["ETag"] = tag
    response.headers["Cache-Control"] = f"private, max-age={FEED_S}"
    return response

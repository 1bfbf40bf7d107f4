"""What is in somebody's drawer, and what is said of a build plan."""

from __future__ import annotations

import secrets
from datetime import UTC, date, datetime
from functools import lru_cache

from django.contrib.auth.models import User
from django.utils import timezone

from catalogue.services import catalogue_for
from common.errors import Refused
from common.transactions import atomic_with_retry
from ember_core import Problem
from ember_core.measures.bench import TrialBench
from ember_core.planning import BuildPlan, InDrawer, PlanState, build_plan, order, plan_calendar

from .access import variant_for
from .models import DrawerItem, Plan, Revision, Variant
from .sharing import design_of

MOST_IN_DRAWER = 2000
KEPT_CALENDARS = 64


def drawer_of(user: User) -> list[InDrawer]:
    return [
        InDrawer.model_validate(
            {"name": row.name, "on_hand": row.on_hand, "breaks": row.breaks, "lead_days": row.lead_days}
        )
        for row in user.drawer.all()
    ]


@atomic_with_retry
def keep_in_drawer(user: User, item: InDrawer) -> None:
    """What is known of a thing, in place of what was known; nothing at all is forgotten."""
    if item == InDrawer(name=item.name):
        user.drawer.filter(name=item.name).delete()
        return
    if user.drawer.exclude(name=item.name).count() >= MOST_IN_DRAWER:
        raise Refused(422, "The drawer is full", [Problem("", f"it holds at most {MOST_IN_DRAWER} things")])
    kept = item.model_dump(exclude={"name"})
    DrawerItem.objects.update_or_create(owner=user, name=item.name, defaults=kept)


def bench_of(user: User, head: Revision) -> TrialBench:
    return TrialBench(design_of(head), catalogue_for(user))


def state_of(variant: Variant) -> PlanState:
    """What is said of its plan; before anybody says anything it begins today."""
    row = Plan.objects.filter(variant=variant).first()
    return PlanState(start=timezone.localdate()) if row is None else PlanState.model_validate(row.state)


def plan_of(user: User, variant: Variant) -> BuildPlan:
    assert variant.head is not None
    bench = bench_of(user, variant.head)
    return build_plan(bench, order(bench, drawer_of(user), 1), state_of(variant), timezone.localdate())


@atomic_with_retry
def keep_plan(user: User, variant_id: int, state: PlanState) -> Variant:
    variant = variant_for(user, variant_id, "edit")
    Plan.objects.update_or_create(variant=variant, defaults={"state": state.model_dump(mode="json")})
    return variant


@atomic_with_retry
def set_feed(user: User, variant_id: int, *, on: bool) -> Variant:
    """Gives the plan a secret address that calendars read, another one each time, or takes it away."""
    variant = variant_for(user, variant_id, "edit")
    state = state_of(variant).model_dump(mode="json")
    secret = secrets.token_urlsafe(32) if on else None
    Plan.objects.update_or_create(
        variant=variant, defaults={"secret": secret}, create_defaults={"state": state, "secret": secret}
    )
    return variant


def feed_of(variant: Variant) -> str | None:
    return Plan.objects.filter(variant=variant).values_list("secret", flat=True).first()


def calendar_of(variant: Variant) -> bytes:
    """The plan as a calendar, for whoever sees it, as its owner has it."""
    assert variant.head_id is not None
    owner = variant.project.owner
    drawer = tuple(x.model_dump_json() for x in drawer_of(owner))
    state = state_of(variant).model_dump_json()
    return _calendar(owner.pk, variant.pk, variant.head_id, variant.project.name, state, drawer, timezone.localdate())


@lru_cache(maxsize=KEPT_CALENDARS)
def _calendar(
    owner: int, variant: int, head: int, gadget: str, state: str, drawer: tuple[str, ...], today: date
) -> bytes:
    """Calendars ask again and again: the same plan on the same day is worked out once."""
    bench = bench_of(User(pk=owner), Revision.objects.get(pk=head))
    bill = order(bench, [InDrawer.model_validate_json(x) for x in drawer], 1)
    plan = build_plan(bench, bill, PlanState.model_validate_json(state), today)
    return plan_calendar(plan, gadget, f"variant-{variant}", datetime(today.year, today.month, today.day, tzinfo=UTC))

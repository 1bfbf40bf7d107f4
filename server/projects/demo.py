"""The demo account with the designs in demo/: made up, loaded on the first start."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction

from ember_core import Design, read_design
from ember_core.catalogue import built_in
from ember_core.measures.bench import TrialBench
from ember_core.traces import Kept, simulated, simulated_run_down

from . import services
from .models import Project, Variant
from .traces import keep_trace

RECORDED_S, RECORDED_HZ = 120.0, 100.0
EXTRA_AT_REST = 0.4  # of what it draws at rest
DEMO_FOLDER = settings.ROOT / "demo"
# file, name of its variant; files of one gadget stand together
DEMO_FILES = (
    ("snow-stake.json", "One cylinder a season"),
    ("rosin-minder.json", "Two AAA cells"),
    ("rosin-minder-rechargeable.json", "Tiny rechargeable"),
    ("tarn-light.json", "Two coin cells"),
    ("tarn-light-aaa.json", "Two AAA cells"),
    ("dusk-ear.json", "Pouch cell"),
)


@transaction.atomic
def load_demo() -> int:
    """Makes the demo account and its gadgets where the account is not there yet. Returns how many were made."""
    user, created = User.objects.get_or_create(username=settings.DEMO_USER)
    if not created:
        return 0
    user.set_unusable_password()
    user.save()
    return len(add_examples(user))


def add_examples(user: User) -> list[Project]:
    """The demos as gadgets of an account, to be opened, taken apart and removed."""
    projects: dict[str, Project] = {}
    for file, variant in DEMO_FILES:
        design = read_design((Path(DEMO_FOLDER) / file).read_bytes())
        if design.name in projects:
            own = services.create_variant(user, projects[design.name].pk, variant, design)
        else:
            projects[design.name] = services.create_project(user, design, variant=variant, reason="Demo data")
            own = projects[design.name].variants.get()
        _add_recordings(user, own, design)
    for project in projects.values():
        first = project.variants.order_by("id").first()
        assert first is not None
        services.set_baseline(user, first.pk, first.head_id)
    return list(projects.values())


def _add_recordings(user: User, variant: Variant, design: Design) -> None:
    """Two minutes of its current, with a little more at rest than told, and two thirds of a run-down, both made up."""
    bench = TrialBench(design, built_in())
    more = {bench.rest: EXTRA_AT_REST * float(bench.usual.mode_current_a[bench.rest, bench.middle])}
    recording, _ = simulated(bench, RECORDED_S, RECORDED_HZ, 1, more_a=more)
    keep_trace(variant, user, "First walk", Kept.of(recording))
    course = simulated_run_down(bench, 0.66, 1, longer=0.93)
    kept = Kept(course.packed(), course.time_s.size, float(course.time_s[-1]))
    keep_trace(variant, user, "First charge", kept, "rundown")

"""The demo account with the designs in demo/: made up, loaded on the first start."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction

from ember_core import read_design

from . import services
from .models import Project

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
            services.create_variant(user, projects[design.name].pk, variant, design)
        else:
            projects[design.name] = services.create_project(user, design, variant=variant, reason="Demo data")
    for project in projects.values():
        first = project.variants.order_by("id").first()
        assert first is not None
        services.set_baseline(user, first.pk, first.head_id)
    return list(projects.values())

"""Who else may see or change a gadget: people by their account's name, and links for those who have none."""

from __future__ import annotations

import json
import secrets
from datetime import timedelta
from functools import lru_cache

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from catalogue.services import catalogue_for
from common.errors import Refused, not_found
from ember_core import VERSION, Design, Problem, build_design, evaluate
from ember_core.documents import MOST_COMPARED, Comparison, ReportContent, compare, report_content
from ember_core.figures import as_json

from .access import Role, project_for
from .models import Member, Project, Revision, SharedLink, Variant

MOST_MEMBERS, MOST_LINKS = 50, 50  # of a gadget
KEPT_ANSWERS = 64  # of links that are opened often


@transaction.atomic
def invite(user: User, project_id: int, name: str, role: Role) -> Member:
    """Somebody may look at a gadget of one's own, or change it; once more with another role changes that."""
    project = project_for(user, project_id, "own")
    other = User.objects.filter(username=name, is_active=True).first()
    if other is None:
        raise Refused(422, "Nobody was invited", [Problem("/name", "there is no account of that name")])
    if other.pk == user.pk:
        raise Refused(422, "Nobody was invited", [Problem("/name", "is yourself: the gadget is yours already")])
    if project.members.exclude(user=other).count() >= MOST_MEMBERS:
        raise Refused(
            422, "Nobody was invited", [Problem("", f"a gadget is shared with at most {MOST_MEMBERS} people")]
        )
    return Member.objects.update_or_create(project=project, user=other, defaults={"role": role})[0]


def part_from(user: User, project_id: int, name: str) -> None:
    """Its owner takes somebody's part in a gadget away, or somebody leaves it."""
    project = project_for(user, project_id, "view" if name == user.get_username() else "own")
    if not project.members.filter(user__username=name).delete()[0]:
        raise not_found("person")


def make_link(user: User, project_id: int, variants: list[int], days: int | None) -> SharedLink:
    """A secret address of a variant, or of several of one gadget beside each other, for so many days or until it is taken back."""
    project = project_for(user, project_id, "own")
    wanted = list(dict.fromkeys(variants))
    if project.variants.filter(pk__in=wanted).count() != len(wanted):
        raise not_found("variant")
    if project.links.count() >= MOST_LINKS:
        raise Refused(422, "No link was made", [Problem("", f"a gadget has at most {MOST_LINKS} links")])
    expires = None if days is None else timezone.now() + timedelta(days=days)
    return SharedLink.objects.create(
        project=project, secret=secrets.token_urlsafe(32), variants=wanted[:MOST_COMPARED], author=user, expires=expires
    )


def take_back(user: User, project_id: int, link: int) -> None:
    if not project_for(user, project_id, "own").links.filter(pk=link).delete()[0]:
        raise not_found("link")


def shown(link: SharedLink) -> list[Variant]:
    """The variants behind a link that are still there, in their order, with their heads. Raises Refused where none is."""
    found = {
        v.pk: v for v in link.project.variants.select_related("head").filter(pk__in=link.variants).exclude(head=None)
    }
    rows = [found[key] for key in link.variants if key in found]
    if not rows:
        raise not_found("shared page")
    return rows


def design_of(revision: Revision) -> Design:
    return build_design(json.loads(revision.document))


@lru_cache(maxsize=KEPT_ANSWERS)
def _said(owner: int, revision: int) -> tuple[bytes, ReportContent]:
    """What is said of a revision: its evaluation and its report. A revision does not change."""
    design = design_of(Revision.objects.get(pk=revision))
    result = evaluate(design, catalogue_for(User(pk=owner)))
    return as_json(result), report_content(design, result, VERSION)


def evaluation_shown(project: Project, revision: Revision) -> bytes:
    return _said(project.owner_id, revision.pk)[0]


def report_shown(project: Project, revision: Revision) -> ReportContent:
    return _said(project.owner_id, revision.pk)[1]


def comparison_shown(project: Project, rows: list[Variant]) -> Comparison:
    return _compared(project.owner_id, tuple((v.name, v.head_id) for v in rows if v.head_id is not None))


@lru_cache(maxsize=KEPT_ANSWERS)
def _compared(owner: int, heads: tuple[tuple[str, int], ...]) -> Comparison:
    named = [(name, design_of(Revision.objects.get(pk=key))) for name, key in heads]
    return compare(named, catalogue_for(User(pk=owner)))

"""Who may see and change what: the one gate. What one may not see is not found."""

from __future__ import annotations

from typing import Literal

from django.contrib.auth.models import User
from django.db.models import Exists, OuterRef, Prefetch, Q, QuerySet
from django.utils import timezone

from common.errors import not_found

from .models import Member, Plan, Project, Revision, SharedLink, Variant

# what somebody wants to do with it: look at it, change it, or what is its owner's alone (give it away, share it)
Role = Literal["view", "edit", "own"]


def _allowed(user: User, role: Role, prefix: str = "") -> Q:
    """The rows with which somebody may do what `role` says; `prefix` leads from the row to its project. What is deleted is not there."""
    may = Q(**{f"{prefix}owner": user})
    if role != "own":
        roles = ("edit",) if role == "edit" else ("view", "edit")
        may |= Q(Exists(Member.objects.filter(project=OuterRef(f"{prefix}pk"), user=user, role__in=roles)))
    return may & Q(**{f"{prefix}deleted": None})


def visible_to(user: User) -> QuerySet[Project]:
    """The gadgets that an account sees: its own, and those that it was invited to."""
    return Project.objects.filter(_allowed(user, "view"))


def projects_of(user: User) -> QuerySet[Project]:
    """The gadgets of an account that are not deleted."""
    return Project.objects.filter(_allowed(user, "own"))


def deleted_of(user: User) -> QuerySet[Project]:
    """Those that are, and can be put back."""
    return Project.objects.filter(owner=user).exclude(deleted=None)


def with_heads(projects: QuerySet[Project]) -> QuerySet[Project]:
    """Gadgets with their variants and what the heads of those say in short: four queries, and no document is read."""
    heads = Variant.objects.select_related("head__author").defer("head__document", "head__evaluation")
    return projects.select_related("owner").prefetch_related(Prefetch("variants", heads), "members")


def role_of(user: User, project: Project) -> Role:
    """What somebody who sees a gadget may do with it."""
    if project.owner_id == user.pk:
        return "own"
    edits = any(m.user_id == user.pk and m.role == "edit" for m in project.members.all())
    return "edit" if edits else "view"


def project_for(user: User, project_id: int, role: Role) -> Project:
    project = Project.objects.filter(_allowed(user, role), pk=project_id).first()
    if project is None:
        raise not_found("gadget")
    return project


def whole_variants() -> QuerySet[Variant]:
    """Variants with all that a page of one needs, but the evaluations."""
    rows = Variant.objects.select_related("project", "head__author", "baseline__author")
    return rows.defer("head__evaluation", "baseline__evaluation")


def variant_for(user: User, variant_id: int, role: Role, *, lock: bool = False) -> Variant:
    """With its project, its head and its baseline as they are at one moment; a locked one comes alone."""
    found = Variant.objects.select_for_update() if lock else whole_variants()
    variant = found.filter(_allowed(user, role, "project__"), pk=variant_id).first()
    if variant is None:
        raise not_found("variant")
    return variant


def revision_for(user: User, revision_id: int, role: Role) -> Revision:
    rows = Revision.objects.filter(_allowed(user, role, "variant__project__"), pk=revision_id)
    revision = rows.select_related("variant").first()
    if revision is None:
        raise not_found("revision")
    return revision


def link_by(secret: str) -> SharedLink:
    """The link with a secret, as long as it is good."""
    rows = SharedLink.objects.select_related("project__owner").filter(secret=secret, project__deleted=None)
    link = rows.filter(Q(expires=None) | Q(expires__gt=timezone.now())).first()
    if link is None:
        raise not_found("shared page")
    return link


def plan_by(secret: str) -> Plan:
    """The plan whose feed has a secret, with its variant."""
    rows = Plan.objects.select_related("variant__project__owner", "variant__head")
    plan = rows.filter(secret=secret, variant__project__deleted=None).exclude(variant__head=None).first()
    if plan is None:
        raise not_found("calendar")
    return plan

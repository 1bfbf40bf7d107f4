"""Who may see and change what: the one gate. What one may not see is not found."""

from __future__ import annotations

from typing import Literal

from django.contrib.auth.models import User
from django.db.models import Prefetch, Q, QuerySet

from config.errors import not_found

from .models import Project, Revision, Variant

# what somebody wants to do with it; the owner may all of it, nobody else anything yet
Role = Literal["view", "edit", "own"]


def _allowed(user: User, role: Role, prefix: str = "") -> Q:
    """The rows with which somebody may do what `role` says; `prefix` leads from the row to its project. What is deleted is not there."""
    return Q(**{f"{prefix}owner": user, f"{prefix}deleted": None})


def projects_of(user: User) -> QuerySet[Project]:
    """The gadgets of an account that are not deleted."""
    return Project.objects.filter(_allowed(user, "own"))


def deleted_of(user: User) -> QuerySet[Project]:
    """Those that are, and can be put back."""
    return Project.objects.filter(owner=user).exclude(deleted=None)


def with_heads(projects: QuerySet[Project]) -> QuerySet[Project]:
    """Gadgets with their variants and what the heads of those say in short: three queries, and no document is read."""
    heads = Variant.objects.select_related("head__author").defer("head__document", "head__evaluation")
    return projects.prefetch_related(Prefetch("variants", heads))


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

"""Who may see what: the one place where ownership is checked."""

from __future__ import annotations

from django.contrib.auth.models import User

from config.errors import not_found

from .models import Project, Revision, Variant


def own_project(user: User, project_id: int) -> Project:
    project = Project.objects.filter(owner=user, pk=project_id).first()
    if project is None:
        raise not_found("gadget")
    return project


def own_variant(user: User, variant_id: int, *, lock: bool = False) -> Variant:
    found = Variant.objects.select_related("project", "head", "baseline")
    if lock:
        found = Variant.objects.select_for_update()
    variant = found.filter(project__owner=user, pk=variant_id).first()
    if variant is None:
        raise not_found("variant")
    return variant


def own_revision(user: User, revision_id: int) -> Revision:
    revision = Revision.objects.filter(variant__project__owner=user, pk=revision_id).select_related("variant").first()
    if revision is None:
        raise not_found("revision")
    return revision

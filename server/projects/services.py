"""What may change projects, variants and revisions. Every save is checked against the revision it was made from."""

from __future__ import annotations

import json
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from functools import lru_cache
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from catalogue.services import Edition, catalogue_for, edition
from common.errors import Refused, not_found
from common.transactions import atomic_with_retry
from ember_core import VERSION, Design, DocumentError, Problem, build_design, evaluate, read_design
from ember_core.catalogue import built_in
from ember_core.design.changes import AREAS, Area, touched
from ember_core.design.merging import taken_over
from ember_core.figures import as_json
from ember_core.imports.new_gadget import new_gadget
from ember_core.imports.parts_list import read_parts_list
from ember_core.imports.parts_table import PartsTable, parts_or_refused
from ember_core.recipes import Answers, Begun, begin

from . import receipts
from .access import deleted_of, project_for, projects_of, revision_for, variant_for
from .models import KEPT_DELETED, Project, Revision, Variant

FOLD_WITHIN = timedelta(minutes=10)
FIRST_VARIANT = "First"
MOST_PROJECTS, MOST_VARIANTS = 500, 60
LONGEST_NAME, COPIED = 120, ", copied"
MOST_DELETED = 100  # of an account: the oldest go first


@dataclass(frozen=True)
class Evaluated:
    """A design with the figures that its revision keeps as columns, and its whole evaluation, compressed, unless a receipt
    stood for it. Made before a transaction, not inside it."""

    design: Design
    columns: dict[str, Any]
    evaluation: bytes | None


def evaluated(user: User, design: Design, receipt: str = "") -> Evaluated:
    """A design with its figures; a receipt of its evaluation spares making them anew."""
    columns, kept = receipts.redeem(receipt, user, design) if receipt else None, None
    if columns is None:
        result = evaluate(design, catalogue_for(user))
        columns, kept = receipts.columns(result), zlib.compress(as_json(result))
    return Evaluated(design, {"document": design.model_dump_json(), **columns}, kept)


def evaluation_of(user: User, revision: Revision) -> tuple[str, bytes]:
    """(version of the core, what it said of a revision, JSON): as it was kept, else made now."""
    if revision.evaluation is not None:
        return revision.core, zlib.decompress(revision.evaluation)
    result = evaluate(build_design(json.loads(revision.document)), catalogue_for(user))
    return VERSION, as_json(result)


def _new_revision(variant: Variant, user: User, new: Evaluated, **fields: Any) -> Revision:
    number = fields.pop("number", None)
    if number is None:
        last = variant.revisions.order_by("-number").values_list("number", flat=True).first()
        number = (last or 0) + 1
    stays = not fields.get("automatic") or bool(fields.get("reason"))
    kept = new.evaluation if stays else None
    revision = Revision(variant=variant, number=number, author=user, evaluation=kept, **new.columns, **fields)
    revision.save()
    variant.head = revision
    variant.save(update_fields=["head"])
    Project.objects.filter(pk=variant.project_id).update(changed=timezone.now())
    return revision


def create_project(user: User, design: Design, *, variant: str = FIRST_VARIANT, reason: str = "") -> Project:
    return _store_project(user, evaluated(user, design), variant, reason)


@atomic_with_retry
def _store_project(user: User, new: Evaluated, variant: str, reason: str) -> Project:
    if projects_of(user).count() >= MOST_PROJECTS:
        raise Refused(422, "Too many gadgets", [Problem("", f"an account holds at most {MOST_PROJECTS}")])
    project = Project.objects.create(owner=user, name=new.design.name)
    first = Variant.objects.create(project=project, name=variant)
    _new_revision(first, user, new, automatic=False, reason=reason)
    return project


def create_empty(user: User, name: str) -> Project:
    return create_project(user, new_gadget(name), reason="New gadget")


def create_from_parts(user: User, name: str, raw: bytes) -> Project:
    return create_project(user, new_gadget(name, read_parts_list(raw)), reason="From a parts list")


def create_from_table(user: User, name: str, table: PartsTable) -> Project:
    return create_project(user, new_gadget(name, parts_or_refused(table)), reason="From a table")


def create_from_document(user: User, raw: bytes) -> Project:
    return create_project(user, read_design(raw), reason="From a file")


def create_from_answers(user: User, answers: Answers) -> Project:
    return create_project(user, beginning(user, answers).design, reason="From questions")


def beginning(user: User, answers: Answers) -> Begun:
    """What answers come to; the same answers from the same catalogue are worked out once."""
    number, changed = edition(user)
    return _begun(user.pk if number else None, (number, changed), answers.model_dump_json())


@lru_cache(maxsize=100)
def _begun(owner: int | None, kept: Edition, answers: str) -> Begun:
    catalogue = built_in() if owner is None else catalogue_for(User(pk=owner), kept)
    return begin(Answers.model_validate_json(answers), catalogue)


@transaction.atomic
def duplicate_project(user: User, project_id: int) -> Project:
    """The same gadget once more, with all its variants as they are now; it is the copier's own."""
    source = project_for(user, project_id, "view")
    name = f"{source.name[: LONGEST_NAME - len(COPIED)]}{COPIED}"
    heads = [
        (v.name, build_design(json.loads(v.head.document)))
        for v in source.variants.order_by("id")
        if v.head is not None
    ]
    (first, design), *others = heads
    copy = create_project(
        user, design.model_copy(update={"name": name}), variant=first, reason=f"Copied from {source.name}"
    )
    for variant, other in others:
        create_variant(user, copy.pk, variant, other.model_copy(update={"name": name}))
    return copy


@atomic_with_retry
def change_project(
    user: User, project_id: int, *, name: str | None, tags: list[str] | None, archived: bool | None
) -> Project:
    """Its name, its tags (once each, in their order) or whether it is in the archive; only a name is a change of the gadget."""
    project = project_for(user, project_id, "edit")
    changed = []
    if name is not None:
        project.name = name
        changed += ["name", "changed"]
    if tags is not None:
        project.tags = list(dict.fromkeys(tags))
        changed.append("tags")
    if archived is not None:
        project.archived = (project.archived or timezone.now()) if archived else None
        changed.append("archived")
    if changed:
        project.save(update_fields=changed)
    return project


def delete_project(user: User, project_id: int) -> None:
    """Out of sight at once, and gone after some days: until then it can be put back."""
    project = project_for(user, project_id, "own")
    project.deleted = timezone.now()
    project.save(update_fields=["deleted"])
    for old in deleted_of(user).order_by("-deleted")[MOST_DELETED:]:
        old.delete()


@atomic_with_retry
def put_back(user: User, project_id: int) -> Project:
    project = deleted_of(user).filter(pk=project_id).first()
    if project is None:
        raise not_found("deleted gadget")
    if projects_of(user).count() >= MOST_PROJECTS:
        raise Refused(422, "Too many gadgets", [Problem("", f"an account holds at most {MOST_PROJECTS}")])
    project.deleted = None
    project.save(update_fields=["deleted", "changed"])
    return project


def forget_deleted() -> None:
    """Gadgets that were deleted long ago, with all that belongs to them."""
    for old in Project.objects.filter(deleted__lt=timezone.now() - KEPT_DELETED):
        old.delete()


def create_variant(user: User, project_id: int, name: str, design: Design) -> Variant:
    project_for(user, project_id, "edit")
    return _store_variant(user, project_id, name, evaluated(user, design))


@atomic_with_retry
def _store_variant(user: User, project_id: int, name: str, new: Evaluated) -> Variant:
    project = project_for(user, project_id, "edit")
    names = set(project.variants.values_list("name", flat=True))
    if len(names) >= MOST_VARIANTS:
        raise Refused(422, "Too many variants", [Problem("", f"a gadget holds at most {MOST_VARIANTS}")])
    if name in names:
        raise Refused(422, "The variant can't be made", [Problem("/name", f"{name!r} is taken")])
    variant = Variant.objects.create(project=project, name=name)
    _new_revision(variant, user, new, automatic=False, reason="New variant")
    return variant


@atomic_with_retry
def delete_variant(user: User, variant_id: int) -> None:
    variant = variant_for(user, variant_id, "own")
    if variant.project.variants.count() == 1:
        raise Refused(422, "The last variant stays", [Problem("", "a gadget has at least one variant")])
    variant.delete()


def take_over(user: User, variant_id: int, other: Variant, place: str) -> Revision:
    """A new revision of a variant with what another has at one place; it is judged like any other."""
    variant = variant_for(user, variant_id, "edit")
    assert variant.head is not None and other.head is not None
    design, theirs = (build_design(json.loads(v.head.document)) for v in (variant, other) if v.head)
    new = evaluated(user, taken_over(design, theirs, place))
    reason = f"Taken over from {other.name}: {place}"[:300]
    return save_revision(
        user, variant_id, variant.head.pk, new, automatic=False, reason=reason, differs=differing(variant, new.design)
    )


def refuse_stale(variant: Variant, base: int) -> None:
    """A save made from a revision that is no longer the head is refused with what is there."""
    if variant.head_id is None or variant.head_id != base:
        head = variant.head
        raise Refused(
            409,
            "This variant was changed elsewhere in the meantime",
            head=head.pk if head else None,
            design=build_design(json.loads(head.document)).model_dump(mode="json") if head else None,
        )


def differing(variant: Variant, design: Design) -> list[Area]:
    """The areas in which a document differs from the head of a variant; none where that can't be read any more."""
    try:
        return touched(build_design(json.loads(variant.head.document)), design) if variant.head else []
    except DocumentError:
        return []


@atomic_with_retry
def save_revision(
    user: User,
    variant_id: int,
    base: int,
    new: Evaluated,
    *,
    automatic: bool,
    reason: str = "",
    differs: Sequence[Area] = (),
) -> Revision:
    """A new head for a variant, that `differs` from its base in these areas."""
    variant = variant_for(user, variant_id, "edit", lock=True)
    refuse_stale(variant, base)
    head = variant.head
    assert head is not None
    # what others are compared with stays
    if not automatic or not _folds(head, user) or variant.baseline_id == head.pk:
        return _new_revision(
            variant, user, new, parent=head, automatic=automatic, reason=reason, touched=" ".join(differs)
        )
    variant.head = None
    variant.save(update_fields=["head"])
    head.forget()
    both = [area for area in AREAS if area in differs or area in head.touched.split()]
    return _new_revision(
        variant,
        user,
        new,
        parent_id=head.parent_id,
        automatic=True,
        number=head.number,
        touched=" ".join(both),
    )


def _folds(head: Revision, user: User) -> bool:
    """Autosaves by one person in a short time fold into one revision, unless it is pinned or has a reason."""
    recent = timezone.now() - head.created < FOLD_WITHIN
    return head.automatic and recent and not head.pinned and not head.reason and head.author_id == user.pk


def annotate_revision(user: User, revision_id: int, *, pinned: bool | None, reason: str | None) -> Revision:
    revision = revision_for(user, revision_id, "edit")
    stays = revision.pinned if pinned is None else pinned
    kept = _what_was_said(user, revision) if stays or (revision.reason if reason is None else reason) else None
    return _annotate(user, revision_id, pinned, reason, kept)


def _what_was_said(user: User, revision: Revision) -> bytes | None:
    """The evaluation to keep with a revision that has none yet; None where it can't be made any more: what a later core says
    is not what was said then, and a document from before a limit was drawn may not be read at all."""
    if revision.evaluation is not None or revision.core != VERSION:
        return None
    try:
        return zlib.compress(evaluation_of(user, revision)[1])
    except DocumentError:
        return None


@atomic_with_retry
def _annotate(user: User, revision_id: int, pinned: bool | None, reason: str | None, kept: bytes | None) -> Revision:
    revision = revision_for(user, revision_id, "edit")
    if pinned is not None:
        revision.pinned = pinned
    if reason is not None:
        revision.reason = reason
    if kept is not None:
        revision.evaluation = kept
    revision.save(update_fields=["pinned", "reason", *(["evaluation"] if kept is not None else [])])
    return revision


def set_baseline(user: User, variant_id: int, revision_id: int | None) -> Variant:
    """The revision that the verdict band's changes are counted from; it is pinned."""
    if revision_id is None:
        return _store_baseline(user, variant_id, None, None)
    revision = revision_for(user, revision_id, "edit")
    if revision.variant_id != variant_for(user, variant_id, "edit").pk:
        raise Refused(422, "That revision belongs to another variant")
    return _store_baseline(user, variant_id, revision_id, _what_was_said(user, revision))


@atomic_with_retry
def _store_baseline(user: User, variant_id: int, revision_id: int | None, kept: bytes | None) -> Variant:
    variant = variant_for(user, variant_id, "edit")
    revision = None if revision_id is None else _annotate(user, revision_id, True, None, kept)
    variant.baseline = revision
    variant.save(update_fields=["baseline"])
    return variant

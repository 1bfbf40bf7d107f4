"""Routes of projects, variants and revisions."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from django.http import HttpResponse
from ninja import File, Form, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from catalogue.services import catalogue_for
from common.errors import Refused
from common.requests import SignedIn
from common.uploads import read_upload
from ember_core import VERSION, Design, Evaluation, build_design, evaluate
from ember_core.design.problems import LARGEST_DOCUMENT, DocumentError, Problem
from ember_core.documents import (
    CHAPTERS,
    MOST_COMPARED,
    Chapter,
    Comparison,
    Paper,
    ReportContent,
    compare,
    report_content,
    report_pdf,
)
from ember_core.enclosure.picture import picture
from ember_core.imports.csv_cells import disarmed
from ember_core.imports.tables import LARGEST_BYTES

from . import services
from .access import deleted_of, project_for, revision_for, variant_for, visible_to, whole_variants, with_heads
from .downloads import as_file
from .models import Project, Variant
from .schemas import (
    Annotation,
    Baseline,
    DeletedOut,
    Named,
    NewVariant,
    ProjectChange,
    ProjectOut,
    RevisionDocument,
    RevisionOut,
    Save,
    VariantOut,
)

PICTURE_S = 7 * 24 * 3600  # a revision does not change; how it is drawn may, with another version

router = Router(tags=["projects"])


def _project(request: SignedIn, row: Project) -> ProjectOut:
    return ProjectOut.of(with_heads(Project.objects.all()).get(pk=row.pk), request.user)


def _variant(request: SignedIn, row: Variant) -> VariantOut:
    row = whole_variants().get(pk=row.pk)
    assert row.head is not None
    return VariantOut(
        id=row.pk,
        name=row.name,
        project=_project(request, row.project),
        revision=RevisionOut.of(row.head),
        design=json.loads(row.head.document),
        baseline=RevisionOut.of(row.baseline) if row.baseline else None,
        baseline_design=json.loads(row.baseline.document) if row.baseline else None,
    )


def _read(document: dict[str, Any], prefix: str = "/design") -> Design:
    """A document that arrived as part of a request."""
    try:
        return build_design(document)
    except DocumentError as error:
        raise DocumentError([Problem(prefix + p.path, p.message, p.place) for p in error.problems]) from None


@router.get("/projects", response=list[ProjectOut])
def list_projects(request: SignedIn) -> list[ProjectOut]:
    return [ProjectOut.of(row, request.user) for row in with_heads(visible_to(request.user))]


@router.get("/projects/deleted", response=list[DeletedOut])
def list_deleted(request: SignedIn) -> list[DeletedOut]:
    """What can be put back, the last deleted first."""
    return [DeletedOut.of(row) for row in deleted_of(request.user).order_by("-deleted")]


@router.post("/projects/{project_id}/put-back", response=ProjectOut)
def put_back(request: SignedIn, project_id: int) -> ProjectOut:
    return _project(request, services.put_back(request.user, project_id))


@router.post("/projects", response=ProjectOut)
def create_project(request: SignedIn, body: Named) -> ProjectOut:
    return _project(request, services.create_empty(request.user, body.name))


@router.post("/projects/from-parts", response=ProjectOut)
def create_from_parts(request: SignedIn, named: Form[Named], file: File[UploadedFile]) -> ProjectOut:
    return _project(request, services.create_from_parts(request.user, named.name, read_upload(file, LARGEST_BYTES)))


@router.post("/projects/from-document", response=ProjectOut)
def create_from_document(request: SignedIn, file: File[UploadedFile]) -> ProjectOut:
    return _project(request, services.create_from_document(request.user, read_upload(file, LARGEST_DOCUMENT)))


@router.patch("/projects/{project_id}", response=ProjectOut)
def change_project(request: SignedIn, project_id: int, body: ProjectChange) -> ProjectOut:
    return _project(request, services.change_project(request.user, project_id, **body.model_dump()))


@router.post("/projects/{project_id}/duplicate", response=ProjectOut)
def duplicate_project(request: SignedIn, project_id: int) -> ProjectOut:
    return _project(request, services.duplicate_project(request.user, project_id))


@router.delete("/projects/{project_id}", response={204: None})
def delete_project(request: SignedIn, project_id: int) -> tuple[int, None]:
    services.delete_project(request.user, project_id)
    return 204, None


@router.get("/projects/{project_id}", response=ProjectOut)
def read_project(request: SignedIn, project_id: int) -> ProjectOut:
    return _project(request, project_for(request.user, project_id, "view"))


@router.post("/projects/{project_id}/variants", response=VariantOut)
def create_variant(request: SignedIn, project_id: int, body: NewVariant) -> VariantOut:
    return _variant(request, services.create_variant(request.user, project_id, body.name, _read(body.design)))


@router.get("/variants/{variant_id}", response=VariantOut)
def read_variant(request: SignedIn, variant_id: int) -> VariantOut:
    return _variant(request, variant_for(request.user, variant_id, "view"))


@router.delete("/variants/{variant_id}", response={204: None})
def delete_variant(request: SignedIn, variant_id: int) -> tuple[int, None]:
    services.delete_variant(request.user, variant_id)
    return 204, None


@router.post("/variants/{variant_id}/revisions", response=RevisionOut)
def save_revision(request: SignedIn, variant_id: int, body: Save) -> RevisionOut:
    user = request.user
    variant = variant_for(user, variant_id, "edit")  # with its head: a save beside this one may forget it meanwhile
    services.refuse_stale(variant, body.base)  # before any work
    new = services.evaluated(user, _read(body.design), body.receipt)
    differs = services.differing(variant, new.design)
    row = services.save_revision(
        user, variant_id, body.base, new, automatic=body.automatic, reason=body.reason, differs=differs
    )
    return RevisionOut.of(row)


@router.get("/variants/{variant_id}/revisions", response=list[RevisionOut])
def list_revisions(request: SignedIn, variant_id: int) -> list[RevisionOut]:
    rows = variant_for(request.user, variant_id, "view").revisions.select_related("author").defer("document")
    return [RevisionOut.of(row) for row in rows[:300]]


@router.put("/variants/{variant_id}/baseline", response=VariantOut)
def set_baseline(request: SignedIn, variant_id: int, body: Baseline) -> VariantOut:
    return _variant(request, services.set_baseline(request.user, variant_id, body.revision))


@router.get("/revisions/{revision_id}", response=RevisionDocument)
def read_revision(request: SignedIn, revision_id: int) -> RevisionDocument:
    row = revision_for(request.user, revision_id, "view")
    return RevisionDocument(revision=RevisionOut.of(row), design=json.loads(row.document))


@router.get("/revisions/{revision_id}/evaluation", response=Evaluation)
def read_evaluation(request: SignedIn, revision_id: int) -> HttpResponse:
    """What was said of a revision, with the core's version in a header: as it was kept, else made now."""
    core, said = services.evaluation_of(request.user, revision_for(request.user, revision_id, "view"))
    response = HttpResponse(said, content_type="application/json")
    response.headers["Core-Version"] = core
    return response


@router.patch("/revisions/{revision_id}", response=RevisionOut)
def annotate_revision(request: SignedIn, revision_id: int, body: Annotation) -> RevisionOut:
    row = services.annotate_revision(request.user, revision_id, pinned=body.pinned, reason=body.reason)
    return RevisionOut.of(row)


@router.get("/revisions/{revision_id}/picture.svg", response={200: str})
def draw_revision(request: SignedIn, revision_id: int, dark: bool = False) -> HttpResponse:
    """A small picture of its case and what lies in it, for a light or a dark page."""
    row = revision_for(request.user, revision_id, "view")
    response = HttpResponse(picture(build_design(json.loads(row.document)), dark=dark), content_type="image/svg+xml")
    response.headers["Cache-Control"] = f"private, max-age={PICTURE_S}, immutable"
    return response


@router.get("/variants/{variant_id}/design.json", response=Design)
def export_design(request: SignedIn, variant_id: int) -> HttpResponse:
    """The design document as a file."""
    row = variant_for(request.user, variant_id, "view")
    assert row.head is not None
    text = json.dumps(json.loads(row.head.document), ensure_ascii=False, indent=1)
    return as_file(text, "application/json", row.project.name, ".json")


class CompareQuery(Schema):
    variant: list[int] = Field(
        min_length=2, max_length=MOST_COMPARED, description="the first is what the others are compared with"
    )


@router.get("/compare", response=Comparison)
def compare_variants(request: SignedIn, query: Query[CompareQuery]) -> Comparison:
    """Variants beside each other: what differs, what is said of each, why the runtime is another one."""
    rows = [variant_for(request.user, key, "view") for key in dict.fromkeys(query.variant)]
    if len(rows) < 2:
        raise Refused(422, "Nothing to compare", [Problem("/query/variant", "takes two variants or more")])
    several = len({row.project_id for row in rows}) > 1
    named = [
        (f"{r.project.name}, {r.name}" if several else r.name, build_design(json.loads(r.head.document)))
        for r in rows
        if r.head
    ]
    return compare(named, catalogue_for(request.user))


class TakeOver(Schema):
    other: int = Field(description="the variant that has it")
    place: str = Field(max_length=500, description="where they differ, as the comparison names it")


@router.post("/variants/{variant_id}/take-over", response=RevisionOut)
def take_over(request: SignedIn, variant_id: int, body: TakeOver) -> RevisionOut:
    """A new revision of a variant, with what another one has at one place."""
    other = variant_for(request.user, body.other, "view")
    return RevisionOut.of(services.take_over(request.user, variant_id, other, body.place))


class ReportQuery(Schema):
    paper: Paper = "a4"
    without: list[Chapter] = []


def _report(request: SignedIn, variant_id: int, without: list[Chapter]) -> tuple[Variant, Design, ReportContent]:
    row = variant_for(request.user, variant_id, "view")
    assert row.head is not None
    design = build_design(json.loads(row.head.document))
    chapters = tuple(c for c in CHAPTERS if c not in without)
    return row, design, report_content(design, evaluate(design, catalogue_for(request.user)), VERSION, chapters)


@router.get("/variants/{variant_id}/report", response=ReportContent)
def read_report(request: SignedIn, variant_id: int, query: Query[ReportQuery]) -> ReportContent:
    """What the report says, chapter by chapter."""
    return _report(request, variant_id, query.without)[2]


@router.get("/variants/{variant_id}/report.pdf", response={200: bytes})
def export_report(request: SignedIn, variant_id: int, query: Query[ReportQuery]) -> HttpResponse:
    """The report as a PDF, with the design document attached."""
    row, design, content = _report(request, variant_id, query.without)
    return as_file(report_pdf(design, content, query.paper), "application/pdf", row.project.name, ".pdf")


@router.get("/variants/{variant_id}/bill.csv", response={200: str})
def export_bill(request: SignedIn, variant_id: int) -> HttpResponse:
    """The bill of materials as CSV."""
    row = variant_for(request.user, variant_id, "view")
    assert row.head is not None
    design = build_design(json.loads(row.head.document))
    stream = io.StringIO()
    writer = csv.writer(stream)
    writer.writerow(["name", "quantity", "mass [g]", disarmed(f"cost [{design.brief.currency}]")])
    for line in evaluate(design).totals.bill:
        known = ["", ""] if line.small else [f"{line.mass_g:.2f}", f"{line.cost:.2f}"]
        writer.writerow([disarmed(line.name), f"{line.quantity:g}", *known])
    return as_file(stream.getvalue(), "text/csv; charset=utf-8", row.project.name, "-bill.csv")

"""Sharing: people and links of a gadget, and what a link shows to whoever has it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from common.requests import SignedIn
from ember_core import Evaluation
from ember_core.documents import MOST_COMPARED, Comparison, Paper, ReportContent, report_pdf

from . import sharing
from .access import link_by, project_for
from .downloads import as_file
from .models import Member, SharedLink

router = Router(tags=["sharing"])


class MemberOut(Schema):
    name: str
    role: Literal["view", "edit"]
    since: datetime

    @classmethod
    def of(cls, row: Member) -> MemberOut:
        return cls.model_validate({"name": row.user.get_username(), "role": row.role, "since": row.since})


class Invitation(Schema):
    name: Annotated[str, Field(min_length=1, max_length=150)] = Field(description="of somebody's account")
    role: Literal["view", "edit"]


class LinkOut(Schema):
    id: int
    secret: str
    variants: list[int]
    made: datetime
    expires: datetime | None

    @classmethod
    def of(cls, row: SharedLink) -> LinkOut:
        return cls(id=row.pk, secret=row.secret, variants=row.variants, made=row.made, expires=row.expires)


class NewLink(Schema):
    variants: Annotated[list[int], Field(min_length=1, max_length=MOST_COMPARED)]
    days: Annotated[int, Field(ge=1, le=3650)] | None = Field(description="how long it is good; null: until taken back")


class SharedOut(Schema):
    """What a link leads to."""

    gadget: str
    variants: list[str]
    owner: str
    expires: datetime | None


@router.get("/projects/{project_id}/people", response=list[MemberOut])
def list_people(request: SignedIn, project_id: int) -> list[MemberOut]:
    rows = project_for(request.user, project_id, "view").members.select_related("user")
    return [MemberOut.of(row) for row in rows]


@router.put("/projects/{project_id}/people", response=MemberOut)
def invite(request: SignedIn, project_id: int, body: Invitation) -> MemberOut:
    return MemberOut.of(sharing.invite(request.user, project_id, body.name, body.role))


@router.delete("/projects/{project_id}/people/{name}", response={204: None})
def part_from(request: SignedIn, project_id: int, name: str) -> tuple[int, None]:
    """The owner takes somebody's part away, or somebody leaves."""
    sharing.part_from(request.user, project_id, name)
    return 204, None


@router.get("/projects/{project_id}/links", response=list[LinkOut])
def list_links(request: SignedIn, project_id: int) -> list[LinkOut]:
    return [LinkOut.of(row) for row in project_for(request.user, project_id, "own").links.all()]


@router.post("/projects/{project_id}/links", response=LinkOut)
def make_link(request: SignedIn, project_id: int, body: NewLink) -> LinkOut:
    return LinkOut.of(sharing.make_link(request.user, project_id, body.variants, body.days))


@router.delete("/projects/{project_id}/links/{link_id}", response={204: None})
def take_back_link(request: SignedIn, project_id: int, link_id: int) -> tuple[int, None]:
    sharing.take_back(request.user, project_id, link_id)
    return 204, None


@router.get("/shared/{secret}", response=SharedOut, auth=None)
def open_link(request: HttpRequest, secret: str) -> SharedOut:
    """Where a link leads; with several variants they stand beside each other."""
    link = link_by(secret)
    rows = sharing.shown(link)
    owner = link.project.owner.get_username()
    return SharedOut(gadget=link.project.name, variants=[v.name for v in rows], owner=owner, expires=link.expires)


@router.get("/shared/{secret}/report", response=ReportContent, auth=None)
def read_shared_report(request: HttpRequest, secret: str) -> ReportContent:
    link = link_by(secret)
    head = sharing.shown(link)[0].head
    assert head is not None
    return sharing.report_shown(link.project, head)


@router.get("/shared/{secret}/evaluation", response=Evaluation, auth=None)
def read_shared_evaluation(request: HttpRequest, secret: str) -> HttpResponse:
    link = link_by(secret)
    head = sharing.shown(link)[0].head
    assert head is not None
    return HttpResponse(sharing.evaluation_shown(link.project, head), content_type="application/json")


@router.get("/shared/{secret}/compare", response=Comparison, auth=None)
def read_shared_comparison(request: HttpRequest, secret: str) -> Comparison:
    link = link_by(secret)
    return sharing.comparison_shown(link.project, sharing.shown(link))


class SharedPaper(Schema):
    paper: Paper = "a4"


@router.get("/shared/{secret}/report.pdf", response={200: bytes}, auth=None)
def export_shared_report(request: HttpRequest, secret: str, query: Query[SharedPaper]) -> HttpResponse:
    link = link_by(secret)
    head = sharing.shown(link)[0].head
    assert head is not None
    content = report_pdf(sharing.design_of(head), sharing.report_shown(link.project, head), query.paper)
    return as_file(content, "application/pdf", link.project.name, ".pdf")

"""Notes and the timeline."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from django.http import HttpResponse
from django.utils.http import content_disposition_header
from ninja import Router, Schema
from pydantic import AfterValidator, Field, TypeAdapter

from blobs import services as blobs
from common.errors import not_found
from common.requests import SignedIn
from projects.access import variant_for
from projects.models import Revision
from projects.schemas import RevisionOut

from . import services
from .models import Note

router = Router(tags=["notes"])


def _web(link: str) -> str:
    if link and not link.startswith(("https://", "http://")):
        raise ValueError("begins with https:// or http://")
    if any(c.isspace() or ord(c) < 32 for c in link):
        raise ValueError("has a space or a sign that no address has")
    return link


class NoteIn(Schema):
    about: Annotated[str, Field(max_length=120)] = Field(
        "", description="a part's or a decision's id, “bench”, or nothing: the gadget"
    )
    text: Annotated[str, Field(max_length=4000)] = ""
    link: Annotated[str, Field(max_length=500), AfterValidator(_web)] = ""
    digest: Annotated[str, Field(pattern="^([0-9a-f]{64})?$")] = Field("", description="of a file that was uploaded")


class NoteOut(Schema):
    id: int
    about: str
    text: str
    link: str
    picture: bool
    file: str = Field(description="the name of a file; empty where there is none")
    author: str
    created: datetime
    revision: RevisionOut | None = Field(description="the revision that it was written on, with its figures")

    @classmethod
    def of(cls, row: Note, *, picture: bool) -> NoteOut:
        author = row.author.get_username() if row.author else "a deleted account"
        return cls(
            id=row.pk, about=row.about, text=row.text, link=row.link, picture=picture, file=row.file.name if row.file else "",
            author=author, created=row.created, revision=RevisionOut.of(row.revision) if row.revision else None,
        )  # fmt: skip


class HappenedOut(Schema):
    kind: Literal["revision", "decision", "note", "recording", "reading", "person", "link"]
    at: datetime
    who: str
    what: str
    variant: int | None
    revision: RevisionOut | None


@router.get("/variants/{variant_id}/notes", response=list[NoteOut])
def list_notes(request: SignedIn, variant_id: int) -> list[NoteOut]:
    rows = variant_for(request.user, variant_id, "view").notes
    with_picture = set(rows.exclude(picture=None).values_list("pk", flat=True))
    found = rows.select_related("author", "file", "revision__author")
    found = found.defer("picture", "revision__document", "revision__evaluation")
    return [NoteOut.of(row, picture=row.pk in with_picture) for row in found]


@router.post("/variants/{variant_id}/notes", response=NoteOut)
def write_note(request: SignedIn, variant_id: int, body: NoteIn) -> NoteOut:
    """A note on the variant as it is now. A picture is made anew, small and without what the camera wrote into it."""
    row = services.write_note(request.user, variant_id, body.about, body.text.strip(), body.link, body.digest)
    return NoteOut.of(row, picture=row.picture is not None)


@router.delete("/variants/{variant_id}/notes/{note_id}", response={204: None})
def remove_note(request: SignedIn, variant_id: int, note_id: int) -> tuple[int, None]:
    services.note_for(request.user, variant_id, note_id, "edit").delete()
    return 204, None


@router.get("/variants/{variant_id}/notes/{note_id}/picture.jpg", response={200: bytes})
def read_picture(request: SignedIn, variant_id: int, note_id: int) -> HttpResponse:
    note = services.note_for(request.user, variant_id, note_id, "view")
    if note.picture is None:
        raise not_found("picture")
    response = HttpResponse(bytes(note.picture), content_type="image/jpeg")
    response.headers["Cache-Control"] = "private, max-age=604800, immutable"
    return response


@router.get("/variants/{variant_id}/notes/{note_id}/file", response={200: bytes})
def read_file(request: SignedIn, variant_id: int, note_id: int) -> HttpResponse:
    """The file as it came: to be kept, never to be shown by the browser."""
    note = services.note_for(request.user, variant_id, note_id, "view")
    if note.file is None:
        raise not_found("file")
    response = HttpResponse(b"".join(blobs.read(note.file)), content_type="application/octet-stream")
    response.headers["Content-Disposition"] = content_disposition_header(True, note.file.name) or "attachment"
    return response


TOLD = TypeAdapter(list[HappenedOut])


@router.get("/projects/{project_id}/timeline", response=list[HappenedOut])
def tell_timeline(request: SignedIn, project_id: int, text: str = "") -> HttpResponse:
    """What happened to a gadget, the last first."""
    revisions: dict[int, RevisionOut] = {}

    def on(row: Revision | None) -> RevisionOut | None:
        if row is None:
            return None
        if row.pk not in revisions:
            revisions[row.pk] = RevisionOut.of(row)
        return revisions[row.pk]

    found = [
        HappenedOut.model_construct(
            kind=h.kind, at=h.at, who=h.who, what=h.what, variant=h.variant, revision=on(h.revision)
        )
        for h in services.happened(request.user, project_id, text[:200])
    ]  # two thousand of our own rows: not checked again
    return HttpResponse(TOLD.dump_json(found), content_type="application/json; charset=utf-8")

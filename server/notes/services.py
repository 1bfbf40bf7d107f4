"""Notes: written, read, taken away; and all that happened to a gadget, in the order of time."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from typing import Literal

from django.conf import settings
from django.contrib.auth.models import User

from blobs import services as blobs
from blobs.models import Holding
from common.errors import Refused, not_found
from common.transactions import atomic_with_retry
from ember_core import Problem
from projects.access import project_for, variant_for
from projects.models import Project, Revision, Variant

from .models import Note
from .picture import NO_PICTURE, TOO_LARGE

MOST_NOTES = 500  # of a variant
LARGEST_PICTURE = 30_000_000
PICTURE_WITHIN_S = 25.0
MOST_TOLD = 2000
PICTURES = (b"\xff\xd8\xff", b"\x89PNG", b"GIF8", b"RIFF", b"II*\x00", b"MM\x00*", b"BM")  # how they begin

Kind = Literal["revision", "decision", "note", "recording", "reading", "person", "link"]


def write_note(user: User, variant_id: int, about: str, text: str, link: str, digest: str) -> Note:
    """A note on the variant as it is now. What is a picture becomes one; anything else stays a file."""
    variant = variant_for(user, variant_id, "edit")
    if not (text or link or digest):
        raise Refused(422, "There is nothing to note", [Problem("/text", "a text, a link or a file is needed")])
    if variant.notes.count() >= MOST_NOTES:
        raise Refused(422, "Too many notes", [Problem("", f"a variant has at most {MOST_NOTES}")])
    file = blobs.holding_for(user, digest) if digest else None
    picture = _picture(file) if file is not None else None
    note = _store(variant, user, about, text, link, picture, None if picture else file)
    if picture and file is not None and not Note.objects.filter(file=file).exists():
        blobs.let_go(user, digest)  # what it was made from, with all that the camera wrote
    return note


@atomic_with_retry
def _store(
    variant: Variant, user: User, about: str, text: str, link: str, picture: bytes | None, file: Holding | None
) -> Note:
    return Note.objects.create(
        variant=variant,
        revision=variant.head,
        about=about,
        text=text,
        link=link,
        picture=picture,
        file=file,
        author=user,
    )


def _picture(file: Holding) -> bytes | None:
    """The picture made anew; None where it does not begin as one."""
    content = blobs.read(file)
    first = next(content, b"")
    if not first.startswith(PICTURES):
        return None
    if file.blob.size > LARGEST_PICTURE:
        raise _refused(f"a picture has at most {LARGEST_PICTURE / 1e6:g} MB")
    try:
        done = subprocess.run(
            [sys.executable, "-m", "notes.picture"], cwd=settings.ROOT / "server", input=first + b"".join(content),
            capture_output=True, timeout=PICTURE_WITHIN_S, check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        raise _refused("takes too long to read") from None
    if done.returncode == NO_PICTURE:
        raise _refused("begins like a picture and is none")
    if done.returncode:
        raise _refused("has too many pixels" if done.returncode == TOO_LARGE else "can't be read")
    return done.stdout


def _refused(message: str) -> Refused:
    return Refused(422, "The picture can't be taken", [Problem("/digest", message)])


def note_for(user: User, variant_id: int, note: int, role: Literal["view", "edit"]) -> Note:
    rows = variant_for(user, variant_id, role).notes.select_related("author", "file__blob", "revision")
    found = rows.filter(pk=note).first()
    if found is None:
        raise not_found("note")
    return found


@dataclass(frozen=True)
class Happened:
    """Something that happened, with where it did."""

    kind: Kind
    at: datetime
    who: str
    what: str
    variant: int | None
    revision: Revision | None = None


def happened(user: User, project_id: int, text: str) -> list[Happened]:
    """What happened to a gadget, the last first; with a text only what has it in its words, its author's or its variant's name."""
    project = project_for(user, project_id, "view")
    wanted = text.casefold()
    found = [h for h in _all(project) if wanted in f"{h.what} {h.who}".casefold()]
    return sorted(found, key=lambda h: h.at, reverse=True)[:MOST_TOLD]


def _all(project: Project) -> Iterator[Happened]:
    variants = {v.pk: v.name for v in project.variants.all()}
    several = len(variants) > 1

    def named(what: str, variant: int) -> str:
        return f"{variants[variant]}: {what}" if several else what

    def name(author: User | None) -> str:
        return author.get_username() if author else "a deleted account"

    rows = Revision.objects.filter(variant__project=project).select_related("author").defer("document", "evaluation")
    for r in rows.filter(automatic=False).order_by("-created")[:MOST_TOLD]:
        yield Happened("revision", r.created, name(r.author), named(f"{r.reason or 'Kept'} (revision {r.number})", r.variant_id), r.variant_id, r)  # fmt: skip
    notes = Note.objects.filter(variant__project=project).select_related("author", "revision__author", "file")
    notes = notes.defer("picture", "revision__document", "revision__evaluation")
    for n in notes[:MOST_TOLD]:
        told = (n.text, n.link, n.file.name if n.file else "")
        what = " · ".join(w for w in told if w) or "A picture"
        yield Happened("note", n.created, name(n.author), named(what[:300], n.variant_id), n.variant_id, n.revision)
    for variant in project.variants.select_related("head"):
        yield from _decided(variant, named)
        for t in variant.traces.defer("content").select_related("author"):
            kind = "A run-down" if t.kind == "rundown" else "A recording"
            yield Happened("recording", t.taken, name(t.author), named(f"{kind}: {t.name}", variant.pk), variant.pk)
        for reading in variant.readings.select_related("author")[:MOST_TOLD]:
            words = f"Read on prototype {reading.prototype}: {reading.step}"
            yield Happened("reading", reading.taken, name(reading.author), named(words, variant.pk), variant.pk)
    for m in project.members.select_related("user"):
        may = "change it" if m.role == "edit" else "look at it"
        yield Happened("person", m.since, project.owner.get_username(), f"{m.user.get_username()} may {may}", None)
    for link in project.links.select_related("author"):
        yield Happened("link", link.made, name(link.author), "A link to read it", None)


def _decided(variant: Variant, named: Callable[[str, int], str]) -> Iterator[Happened]:
    """The decisions that stand in a variant's document, at noon of their days."""
    found = json.loads(variant.head.document).get("decisions", []) if variant.head else []
    for decision in found:
        with suppress(ValueError):  # a day that is in no calendar
            at = datetime.combine(date.fromisoformat(decision["date"]), time(12), UTC)
            words = f"Decided: {decision['what']}" + (f" ({why})" if (why := decision.get("why")) else "")
            yield Happened("decision", at, "", named(words[:300], variant.pk), variant.pk)

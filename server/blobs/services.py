"""What may be done with blobs. Content is never handed out for a hash alone: who wants to hold it has to bring it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from datetime import timedelta

from django.contrib.auth.models import User
from django.db.models import Exists, OuterRef, QuerySet, Sum
from django.utils import timezone

from common.errors import Refused, not_found
from common.transactions import atomic_with_retry
from ember_core import Problem

from .models import PIECE_BYTES, Blob, Holding, Piece, Upload, pieces_of

LARGEST_BLOB = 64_000_000
MOST_HELD = 500_000_000  # bytes by one account, uploads under way included
MOST_UPLOADS = 8  # under way by one account
UNFINISHED_FOR = timedelta(days=1)


def begin_upload(user: User, digest: str, size: int, name: str) -> Upload:
    """An upload for a content of a size [bytes] and a SHA-256, both checked when it is whole."""
    if not 0 < size <= LARGEST_BLOB:
        most = f"{LARGEST_BLOB / 1e6:g} MB"
        raise Refused(413, "The file can't be taken", [Problem("/size", f"must be from 1 byte to {most}")])
    if user.uploads.count() >= MOST_UPLOADS:
        raise Refused(
            409, "Too many uploads at once", [Problem("", f"finish or drop one of your {MOST_UPLOADS} first")]
        )
    if held_bytes(user) + size > MOST_HELD:
        whole = f"{MOST_HELD / 1e6:g} MB"
        raise Refused(413, "There is no room for it", [Problem("/size", f"an account holds at most {whole}")])
    return Upload.objects.create(owner=user, digest=digest, size=size, name=name)


def held_bytes(user: User) -> int:
    held = Holding.objects.filter(owner=user).aggregate(whole=Sum("blob__size"))["whole"] or 0
    coming = user.uploads.aggregate(whole=Sum("size"))["whole"] or 0
    return int(held + coming)


def upload_for(user: User, upload: str) -> Upload:
    found = Upload.objects.filter(owner=user, pk=upload).first()
    if found is None:
        raise not_found("upload")
    return found


@atomic_with_retry
def put_piece(user: User, upload: str, number: int, content: bytes) -> None:
    """The piece with a number, from 0; all have `PIECE_BYTES`, the last what is left. Sent again, it replaces the first."""
    whole = upload_for(user, upload)
    if number >= pieces_of(whole.size):
        raise Refused(
            422, "That piece is not of this upload", [Problem("/number", f"there are {pieces_of(whole.size)}")]
        )
    wanted = min(PIECE_BYTES, whole.size - number * PIECE_BYTES)
    if len(content) != wanted:
        raise Refused(
            422, "The piece can't be taken", [Problem("", f"has {len(content)} bytes; it must have {wanted}")]
        )
    Piece.objects.update_or_create(upload=whole, number=number, defaults={"content": content})


@atomic_with_retry
def finish_upload(user: User, upload: str) -> Holding:
    """The upload as a blob that its owner holds. Refused where pieces are missing or the content is another one; what was
    sent stays then, so that only what is wrong has to be sent again."""
    whole = upload_for(user, upload)
    there = set(whole.pieces.values_list("number", flat=True))
    missing = [n for n in range(pieces_of(whole.size)) if n not in there]
    if missing:
        raise Refused(
            409, "The upload is not whole yet", [Problem("/pieces", f"piece {n} is missing") for n in missing[:50]]
        )
    digest = hashlib.sha256()
    for content in _contents(Piece.objects.filter(upload=whole), whole.size):
        digest.update(content)
    if digest.hexdigest() != whole.digest:
        raise Refused(
            422, "The content is not what was announced", [Problem("/digest", "is another one than the content's")]
        )
    # locked, so that it is not collected before it is held
    blob, fresh = Blob.objects.select_for_update().get_or_create(digest=whole.digest, defaults={"size": whole.size})
    if fresh:
        whole.pieces.update(blob=blob, upload=None)
    holding, _ = Holding.objects.get_or_create(blob=blob, owner=user, defaults={"name": whole.name})
    whole.delete()
    return holding


def drop_upload(user: User, upload: str) -> None:
    upload_for(user, upload).delete()


def holding_for(user: User, digest: str) -> Holding:
    found = Holding.objects.filter(owner=user, blob__digest=digest).select_related("blob").first()
    if found is None:
        raise not_found("file")
    return found


def read(holding: Holding) -> Iterator[bytes]:
    """The content, piece by piece."""
    return _contents(Piece.objects.filter(blob=holding.blob), holding.blob.size)


def _contents(pieces: QuerySet[Piece], size: int) -> Iterator[bytes]:
    """One after the other, each asked for by itself: the database's client would take them all into memory at once."""
    for number in range(pieces_of(size)):
        yield bytes(pieces.values_list("content", flat=True).get(number=number))


def let_go(user: User, digest: str) -> None:
    """Somebody holds a blob no longer; it goes where nobody else does."""
    holding_for(user, digest).delete()
    collect_orphans()


@atomic_with_retry
def collect_orphans() -> int:
    """Deletes blobs that nobody holds and uploads that nobody finished. Returns how many."""
    old = timezone.now() - UNFINISHED_FOR
    gone = Upload.objects.filter(created__lt=old).delete()[1].get("blobs.Upload", 0)
    free = Blob.objects.select_for_update().filter(~Exists(Holding.objects.filter(blob=OuterRef("pk"))))
    ids = list(free.values_list("pk", flat=True))
    Piece.objects.filter(blob__in=ids).delete()
    Blob.objects.filter(pk__in=ids).delete()
    return gone + len(ids)

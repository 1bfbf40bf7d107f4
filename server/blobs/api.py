"""Routes of the blobs."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from django.http import StreamingHttpResponse
from ninja import Router, Schema
from pydantic import AfterValidator, Field

from common.requests import SignedIn, readable

from . import services
from .models import PIECE_BYTES, Holding, pieces_of

router = Router(tags=["blobs"])
Digest = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$", description="SHA-256 of the whole content, in hexadecimal")]


class UploadIn(Schema):
    digest: Digest
    size: int = Field(ge=0, description="bytes")
    name: Annotated[str, Field(min_length=1, max_length=200), AfterValidator(readable)]


class UploadOut(Schema):
    id: str
    piece_bytes: int = Field(description="every piece has so many bytes, the last one what is left")
    pieces: int


class HoldingOut(Schema):
    digest: str
    size: int
    name: str
    created: datetime

    @classmethod
    def of(cls, row: Holding) -> HoldingOut:
        return cls(digest=row.blob.digest, size=row.blob.size, name=row.name, created=row.created)


@router.post("/uploads", response=UploadOut)
def begin_upload(request: SignedIn, body: UploadIn) -> UploadOut:
    row = services.begin_upload(request.user, body.digest, body.size, body.name)
    return UploadOut(id=str(row.pk), piece_bytes=PIECE_BYTES, pieces=pieces_of(row.size))


@router.put("/uploads/{uuid:upload}/{int:number}", response={204: None})
def put_piece(request: SignedIn, upload: str, number: int) -> tuple[int, None]:
    """A piece as the raw body."""
    services.put_piece(request.user, upload, number, request.body)
    return 204, None


@router.post("/uploads/{uuid:upload}/finish", response=HoldingOut)
def finish_upload(request: SignedIn, upload: str) -> HoldingOut:
    return HoldingOut.of(services.finish_upload(request.user, upload))


@router.delete("/uploads/{uuid:upload}", response={204: None})
def drop_upload(request: SignedIn, upload: str) -> tuple[int, None]:
    services.drop_upload(request.user, upload)
    return 204, None


@router.get("/blobs", response=list[HoldingOut])
def list_blobs(request: SignedIn) -> list[HoldingOut]:
    return [
        HoldingOut.of(row) for row in request.user.holdings.select_related("blob").order_by("-created", "-id")[:500]
    ]


@router.get("/blobs/{digest}", response={200: bytes})
def read_blob(request: SignedIn, digest: str) -> StreamingHttpResponse:
    """The content; it never changes, so it may be kept."""
    row = services.holding_for(request.user, digest)
    headers = {
        "Content-Length": str(row.blob.size),
        "Content-Disposition": "attachment",
        "Cache-Control": "private, max-age=31536000, immutable",
    }
    return StreamingHttpResponse(services.read(row), content_type="application/octet-stream", headers=headers)


@router.delete("/blobs/{digest}", response={204: None})
def let_go(request: SignedIn, digest: str) -> tuple[int, None]:
    services.let_go(request.user, digest)
    return 204, None

"""Blobs, who holds them, and uploads that are under way. The content lies in the database, in pieces, so that one backup has
everything and any process can read it."""

from __future__ import annotations

import uuid

from django.contrib.auth.models import User
from django.db import models

PIECE_BYTES = 1_000_000


def pieces_of(size: int) -> int:
    """How many pieces a content of so many bytes has."""
    return -(-size // PIECE_BYTES)


class Blob(models.Model):
    """Some content, by its SHA-256."""

    digest = models.CharField(max_length=64, unique=True)
    size = models.PositiveBigIntegerField()
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.digest


class Holding(models.Model):
    """Somebody has brought a blob and may read it; a blob that nobody holds is collected."""

    blob = models.ForeignKey(Blob, on_delete=models.CASCADE, related_name="holdings")
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="holdings")
    name = models.CharField(max_length=200, help_text="as its owner's file was called")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["blob", "owner"], name="held_once")]

    def __str__(self) -> str:
        return self.name


class Upload(models.Model):
    """A blob on its way in, piece by piece, in any order, each as often as it takes."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="uploads")
    digest = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    name = models.CharField(max_length=200)
    created = models.DateTimeField(auto_now_add=True, db_index=True)

    def __str__(self) -> str:
        return self.name


class Piece(models.Model):
    """One piece of a blob, or of an upload that may become one."""

    blob = models.ForeignKey(Blob, null=True, on_delete=models.CASCADE, related_name="pieces")
    upload = models.ForeignKey(Upload, null=True, on_delete=models.CASCADE, related_name="pieces")
    number = models.PositiveIntegerField()
    content = models.BinaryField()

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["blob", "number"], name="blob_piece_once"),
            models.UniqueConstraint(fields=["upload", "number"], name="upload_piece_once"),
        ]

    def __str__(self) -> str:
        return f"piece {self.number}"

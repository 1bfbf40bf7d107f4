"""Reading an uploaded file with a limit, without keeping more than the limit in memory."""

from __future__ import annotations

from typing import Any

from django.core.files.uploadedfile import UploadedFile

from ember_core import Problem

from .errors import Refused


def read_upload(upload: UploadedFile[Any], limit: int) -> bytes:
    """The bytes of an upload. Raises Refused (413) where it is larger than `limit` bytes."""
    if (upload.size or 0) > limit:
        size = f"{(upload.size or 0) / 1e6:.0f} MB; at most {limit / 1e6:.0f} MB are read"
        raise Refused(413, "The file is too large", [Problem("", f"is {size}")])
    data: bytes = upload.read(limit + 1)
    return data

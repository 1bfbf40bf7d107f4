"""Answers that are files."""

from __future__ import annotations

from django.http import HttpResponse
from django.utils.text import slugify


def as_file(content: str | bytes, kind: str, gadget: str, ending: str) -> HttpResponse:
    """Under the gadget's name."""
    response = HttpResponse(content, content_type=kind)
    response.headers["Content-Disposition"] = f'attachment; filename="{slugify(gadget) or "gadget"}{ending}"'
    return response

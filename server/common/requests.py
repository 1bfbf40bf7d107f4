"""A request as the routes get it, and a name in one."""

from __future__ import annotations

import unicodedata

from django.contrib.auth.models import User
from django.http import HttpRequest

DESIGN_BODY = {  # the core reads the raw body, so that its problems come with their places
    "requestBody": {
        "required": True,
        "content": {"application/json": {"schema": {"$ref": "#/components/schemas/Design"}}},
    }
}


class SignedIn(HttpRequest):
    """Authentication has seen to it that there is somebody."""

    user: User


def readable(name: str) -> str:
    """A name that can be read and found again. Raises ValueError."""
    if not name.strip():
        raise ValueError("must not be empty")
    if any(unicodedata.category(c) == "Cc" for c in name):
        raise ValueError("must not contain control characters")
    return name

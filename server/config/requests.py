"""A request as the routes get it."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.http import HttpRequest


class SignedIn(HttpRequest):
    """Authentication has seen to it that there is somebody."""

    user: User

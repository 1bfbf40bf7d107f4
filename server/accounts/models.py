"""Attempts to sign in or up that count against a limit."""

from __future__ import annotations

from django.db import models


class Attempt(models.Model):
    key = models.CharField(max_length=100, help_text="what is limited, and whose it is")
    at = models.DateTimeField()

    class Meta:
        indexes = [models.Index(fields=["key", "at"])]

    def __str__(self) -> str:
        return f"{self.key} at {self.at:%Y-%m-%d %H:%M:%S}"

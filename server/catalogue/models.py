"""Catalogue entries: the built-in ones (no owner, read-only) and each user's own."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import models


class CatalogueEntry(models.Model):
    owner = models.ForeignKey(User, null=True, blank=True, on_delete=models.CASCADE, related_name="catalogue_entries")
    key = models.CharField(max_length=80)
    kind = models.CharField(max_length=10)
    name = models.CharField(max_length=120)
    document = models.TextField(help_text="the entry as ember_core.catalogue.Entry, JSON")
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["kind", "name", "id"]
        constraints = [models.UniqueConstraint(fields=["owner", "key"], name="one_key_per_owner")]
        indexes = [models.Index(fields=["kind", "name"])]

    def __str__(self) -> str:
        return self.name

"""Instruments that somebody measures with, at addresses that they typed."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import models


class Instrument(models.Model):
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="instruments")
    name = models.CharField(max_length=80)
    host = models.CharField(max_length=253)
    port = models.PositiveIntegerField(default=5025)
    link = models.CharField(max_length=8, default="socket", help_text="socket, hislip or vxi-11")
    identity = models.CharField(max_length=200, blank=True, help_text="as it said itself")

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="instrument_names_differ")]

    def __str__(self) -> str:
        return self.name

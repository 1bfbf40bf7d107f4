"""Work that takes longer than a request: asked for, done by the task worker, looked at and given up."""

from __future__ import annotations

import uuid
from typing import Literal

from django.contrib.auth.models import User
from django.db import models

State = Literal["waiting", "running", "done", "failed", "cancelled"]


class Job(models.Model):
    """`progress` goes from 0 to 1, `problem` says why it failed, `beat` is when its work last gave a sign of life."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20)
    state = models.CharField[State, State](max_length=10, default="waiting")
    progress = models.FloatField(default=0.0)
    asked = models.JSONField()
    result = models.JSONField(null=True)
    problem = models.CharField(max_length=500, blank=True)
    begun = models.DateTimeField(null=True)
    beat = models.DateTimeField(null=True)
    tries = models.PositiveSmallIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True, db_index=True)

    def __str__(self) -> str:
        return f"{self.kind}, {self.state}"

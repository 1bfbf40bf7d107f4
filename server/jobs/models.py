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


class RunDownLog(models.Model):
    """A run-down that is logged point by point: when the next one is due (null: no more), how many times in a row nothing answered, and why it ended."""

    trace = models.OneToOneField("projects.Trace", on_delete=models.CASCADE, related_name="log")
    instrument = models.ForeignKey("instruments.Instrument", null=True, on_delete=models.SET_NULL, related_name="+")
    beside = models.ForeignKey(
        "instruments.Instrument", null=True, on_delete=models.SET_NULL, related_name="+"
    )  # reads the current
    range_a = models.FloatField(null=True)  # of the instrument beside it
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="run_down_logs")
    every_s = models.FloatField()
    until_v = models.FloatField()
    began = models.DateTimeField()
    due = models.DateTimeField(null=True)
    misses = models.PositiveSmallIntegerField(default=0)
    problem = models.CharField(max_length=200, blank=True)  # of the last try that failed
    ended = models.CharField(max_length=20, blank=True)  # cut-off, nothing, silent, gone, long, stopped

    def __str__(self) -> str:
        return f"{self.trace} every {self.every_s:g} s"

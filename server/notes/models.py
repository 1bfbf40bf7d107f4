"""Notes of a variant: a text, a picture, a file or a link, of the revision that they were made on."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import models

from blobs.models import Holding
from projects.models import Revision, Variant


class Note(models.Model):
    """`about` names what it is about: a part by its id, the bench, or nothing: the gadget. Pictures are made anew, small and without what a camera wrote
    into them; a file stays as it came and is only ever handed out to be kept."""

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="notes")
    revision = models.ForeignKey(Revision, null=True, on_delete=models.SET_NULL, related_name="+")
    about = models.CharField(max_length=120, blank=True)
    text = models.TextField(blank=True, max_length=4000)
    link = models.CharField(max_length=500, blank=True)
    picture = models.BinaryField(null=True)
    file = models.ForeignKey(Holding, null=True, on_delete=models.SET_NULL, related_name="+")
    author = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    created = models.DateTimeField(auto_now_add=True, db_index=True)

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return f"note {self.pk} of {self.variant}"

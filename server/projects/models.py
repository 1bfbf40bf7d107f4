"""Projects, their variants, and the variants' immutable revisions."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db import DEFAULT_DB_ALIAS, models

KEPT_DELETED = timedelta(days=30)  # so long a deleted gadget can be put back


class Project(models.Model):
    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="projects")
    name = models.CharField(max_length=120)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True, db_index=True)
    tags = models.JSONField(default=list)  # words of its owner, to find it by
    archived = models.DateTimeField(null=True)  # out of the way, not gone
    deleted = models.DateTimeField(null=True, db_index=True)  # it can be put back for some days; nobody else sees it

    class Meta:
        ordering = ["-changed", "-id"]

    def __str__(self) -> str:
        return self.name


class Member(models.Model):
    """Somebody else who may look at a gadget, or change it too."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="members")
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=4, help_text="view or edit")
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["project", "user"], name="members_differ")]

    def __str__(self) -> str:
        return f"{self.user} {self.role} {self.project}"


class SharedLink(models.Model):
    """Whoever has its secret reads a variant, or several beside each other, as they are then, without an account."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="links")
    secret = models.CharField(max_length=43, unique=True)
    variants = models.JSONField(help_text="their numbers; the first is what the others are compared with")
    author = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made", "-id"]

    def __str__(self) -> str:
        return f"link {self.pk} to {self.project}"


class KnownHeading(models.Model):
    """What a column of somebody's tables was agreed to be, so that nobody asks twice."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="known_headings")
    heading = models.CharField(max_length=120, help_text="as `heading_key` writes it")
    role = models.CharField(max_length=12, blank=True)
    state = models.CharField(max_length=120, blank=True)
    unit = models.CharField(max_length=20, null=True)  # noqa: DJ001 -- none is not empty
    used = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-used", "-id"]
        constraints = [models.UniqueConstraint(fields=["owner", "heading"], name="headings_differ")]

    def __str__(self) -> str:
        return self.heading


class Variant(models.Model):
    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="variants")
    name = models.CharField(max_length=120)
    created = models.DateTimeField(auto_now_add=True)
    head = models.ForeignKey("Revision", null=True, on_delete=models.SET_NULL, related_name="+")
    baseline = models.ForeignKey("Revision", null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="variant_names_differ")]

    def __str__(self) -> str:
        return self.name


class Revisions(models.Manager["Revision"]):
    """Without their evaluations, which are read one at a time, when somebody asks for one."""

    def get_queryset(self) -> models.QuerySet[Revision]:
        return super().get_queryset().defer("evaluation")


class Revision(models.Model):
    """One state of a variant. Only `pinned` and `reason` may change once it is stored; an evaluation may be added.

    Its evaluation is kept where it is meant to stay: made by hand, with a reason, or pinned. That of an autosave can be made
    again from its document.
    """

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    parent = models.ForeignKey("self", null=True, on_delete=models.SET_NULL, related_name="+")
    author = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    automatic = models.BooleanField()
    pinned = models.BooleanField(default=False)
    reason = models.CharField(max_length=300, blank=True)
    document = models.TextField(help_text="the design document, JSON")
    runtime_h = models.FloatField(null=True)
    mass_g = models.FloatField()
    cost = models.FloatField()
    gravest = models.CharField(max_length=10, blank=True)
    findings = models.PositiveIntegerField()
    worst = models.CharField(max_length=200, blank=True, help_text="the title of its gravest finding")
    touched = models.CharField(max_length=100, blank=True, help_text="areas that differ from its parent")
    core = models.CharField(max_length=20, blank=True, help_text="the version of the core that its figures are from")
    evaluation = models.BinaryField(null=True, help_text="all of what that core said, JSON, compressed (zlib)")

    objects = Revisions()

    class Meta:
        base_manager_name = "objects"
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["variant", "number"], name="revision_numbers_differ")]

    def __str__(self) -> str:
        return f"{self.variant} r{self.number}"

    def save(self, *args: Any, **kwargs: Any) -> None:
        if self.pk is not None and not set(kwargs.get("update_fields") or ["document"]) <= {
            "pinned",
            "reason",
            "evaluation",
        }:
            raise ValueError("a stored revision does not change")
        super().save(*args, **kwargs)

    def forget(self) -> None:
        """Takes away a revision that nothing points to: without the four searches for what might."""
        Revision.objects.filter(pk=self.pk)._raw_delete(DEFAULT_DB_ALIAS)


class Reading(models.Model):
    """What was read on the bench of one prototype: a step of the variant's bring-up sheet and its figure, in SI; null where it was only ticked off."""

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="readings")
    prototype = models.PositiveSmallIntegerField(default=1)
    step = models.CharField(max_length=80)
    value = models.FloatField(null=True)
    instrument = models.CharField(max_length=80, blank=True)
    accuracy = models.FloatField(null=True, help_text="as a share of the reading; null: as a usual hand-held meter")
    taken = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-taken", "-id"]

    def __str__(self) -> str:
        return f"{self.variant} #{self.prototype} {self.step}"


class Trace(models.Model):
    """A recorded current, or the voltage of a run-down, made small enough to draw; all samples of a long one lie beside it in pieces; `samples` and `seconds` are those of the file."""

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="traces")
    kind = models.CharField(max_length=10, default="current", help_text="current or rundown")
    name = models.CharField(max_length=200)
    content = models.BinaryField()
    samples = models.PositiveIntegerField()
    whole = models.PositiveIntegerField(default=0, help_text="bytes of all samples; 0: not kept")
    seconds = models.FloatField()
    assigned = models.JSONField(default=list)  # which mode is where, as somebody said, the last word last
    over = models.BooleanField(null=True)  # of a run-down: it was dead at its end, as somebody said; null: nobody did
    at_c = models.FloatField(null=True)  # of a run-down: where it was meanwhile [degC]; null: as on its usual days
    taken = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-taken", "-id"]

    def __str__(self) -> str:
        return f"{self.variant} {self.name}"


class TracePiece(models.Model):
    """A piece of all samples of a recording, which its content does not tell one by one."""

    trace = models.ForeignKey(Trace, on_delete=models.CASCADE, related_name="pieces")
    number = models.PositiveIntegerField()
    content = models.BinaryField()

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["trace", "number"], name="trace_piece_once")]

    def __str__(self) -> str:
        return f"piece {self.number} of {self.trace}"


class DrawerItem(models.Model):
    """What an account has of a thing in its drawer, by the name that it has on a bill, what it costs by how many, and how long it takes to come."""

    owner = models.ForeignKey(User, on_delete=models.CASCADE, related_name="drawer")
    name = models.CharField(max_length=200)
    on_hand = models.FloatField(default=0)
    breaks = models.JSONField(default=list)
    lead_days = models.PositiveSmallIntegerField(null=True)

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="drawer_names_differ")]

    def __str__(self) -> str:
        return self.name


class Plan(models.Model):
    """What somebody says of a variant's build plan; its feed is a calendar for whoever has the secret."""

    variant = models.OneToOneField(Variant, on_delete=models.CASCADE, related_name="plan")
    state = models.JSONField()
    secret = models.CharField(max_length=43, unique=True, null=True)  # noqa: DJ001 -- none is not empty

    def __str__(self) -> str:
        return f"plan of {self.variant}"

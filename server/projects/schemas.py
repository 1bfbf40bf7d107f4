"""What the project routes take and give."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from django.contrib.auth.models import User
from ninja import Schema
from pydantic import AfterValidator, Field, GetJsonSchemaHandler

from common.requests import readable
from ember_core import Design

from .access import Role, role_of
from .models import KEPT_DELETED, Project, Revision, Variant


class Named(Schema):
    name: Annotated[str, Field(min_length=1, max_length=120), AfterValidator(readable)]


Tag = Annotated[str, Field(min_length=1, max_length=30), AfterValidator(readable)]


class ProjectChange(Schema):
    """What is changed of a gadget; what is left out stays."""

    name: Annotated[str, Field(min_length=1, max_length=120), AfterValidator(readable)] | None = None
    tags: Annotated[list[Tag], Field(max_length=12)] | None = None
    archived: bool | None = None


class DeletedOut(Schema):
    """A gadget that can be put back, until a day."""

    id: int
    name: str
    deleted: datetime
    until: datetime

    @classmethod
    def of(cls, row: Project) -> DeletedOut:
        assert row.deleted is not None
        return cls(id=row.pk, name=row.name, deleted=row.deleted, until=row.deleted + KEPT_DELETED)


class RevisionOut(Schema):
    id: int
    number: int
    created: datetime
    author: str
    automatic: bool
    pinned: bool
    reason: str
    runtime_h: float | None
    mass_g: float
    cost: float
    gravest: str
    findings: int
    worst: Annotated[str, Field(description="the title of its gravest finding; empty where none was kept")]
    touched: Annotated[list[str], Field(description="the areas that differ from the revision before it")]

    @classmethod
    def of(cls, row: Revision) -> RevisionOut:
        author = row.author.get_username() if row.author else "a deleted account"
        names = ("number", "created", "automatic", "pinned", "reason", "runtime_h", "mass_g", "cost", "gravest",
                 "findings", "worst")  # fmt: skip
        return cls(
            id=row.pk, author=author, touched=row.touched.split(), **{name: getattr(row, name) for name in names}
        )


class VariantBrief(Schema):
    id: int
    name: str
    head: RevisionOut | None

    @classmethod
    def of(cls, row: Variant) -> VariantBrief:
        return cls(id=row.pk, name=row.name, head=RevisionOut.of(row.head) if row.head else None)


class ProjectOut(Schema):
    id: int
    name: str
    changed: datetime
    tags: list[str]
    archived: bool
    role: Annotated[Role, Field(description="what you may do: look, change it, or, as its owner, everything")]
    owner: str
    variants: list[VariantBrief]

    @classmethod
    def of(cls, row: Project, user: User) -> ProjectOut:
        variants = [VariantBrief.of(v) for v in row.variants.all()]
        return cls(
            id=row.pk,
            name=row.name,
            changed=row.changed,
            tags=row.tags,
            archived=row.archived is not None,
            role=role_of(user, row),
            owner=row.owner.get_username(),
            variants=variants,
        )


class VariantOut(Schema):
    """A variant to work on: its head's document, and that of the baseline it is compared with."""

    id: int
    name: str
    project: ProjectOut
    revision: RevisionOut
    design: Design
    baseline: RevisionOut | None
    baseline_design: Design | None


class _DescribedAsDesign:
    @classmethod
    def __get_pydantic_json_schema__(cls, _: Any, handler: GetJsonSchemaHandler) -> Any:
        return handler(Design.__pydantic_core_schema__)


# A document in a request is read by the core, once, so that its problems come with their places.
Document = Annotated[dict[str, Any], _DescribedAsDesign]


class NewVariant(Named):
    design: Document


class Save(Schema):
    base: int = Field(description="the revision that the design was made from")
    automatic: bool = True
    reason: str = Field("", max_length=300)
    design: Document
    receipt: str = Field(
        "", max_length=2000, description="header Evaluation-Receipt of the evaluation of this document"
    )


class Annotation(Schema):
    pinned: bool | None = None
    reason: str | None = Field(None, max_length=300)


class Baseline(Schema):
    revision: int | None


class RevisionDocument(Schema):
    revision: RevisionOut
    design: Design

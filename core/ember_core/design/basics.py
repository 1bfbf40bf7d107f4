"""Quantities with their limits, and the base of all parts of the document."""

from __future__ import annotations

import re
from collections.abc import Container
from functools import cached_property
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

from ..numeric import Array

Slug = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]
Title = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]
Text = Annotated[str, StringConstraints(max_length=4000)]

Ampere = Annotated[float, Field(ge=0, le=100, description="current [A]")]
Volt = Annotated[float, Field(ge=1e-3, le=100, description="voltage [V]")]
Watt = Annotated[float, Field(ge=0, le=2000, description="power [W]")]
Ohm = Annotated[float, Field(ge=1e-6, le=1e9, description="resistance [ohm]")]
SeriesOhm = Annotated[float, Field(ge=0, le=1000, description="resistance [ohm]")]
AmpereHour = Annotated[float, Field(ge=1e-6, le=1000, description="charge [A h]")]
Second = Annotated[float, Field(ge=1e-9, le=86400 * 366, description="time [s]")]
Celsius = Annotated[float, Field(ge=-60, le=120, description="temperature [degC]")]
Millimetre = Annotated[float, Field(ge=1e-3, le=2000, description="length [mm]")]
Gap = Annotated[float, Field(ge=0, le=50, description="length [mm]")]
Gram = Annotated[float, Field(ge=0, le=50000, description="mass [g]")]
Money = Annotated[float, Field(ge=0, le=1e6, description="cost in the brief's currency")]
Share = Annotated[float, Field(ge=0, le=1, description="share, 0 to 1")]
SAME_MM = 1e-3
MOST_HULL = 700
Size = tuple[Millimetre, Millimetre, Millimetre]
Coordinate = Annotated[float, Field(ge=-2000, le=2000, description="position [mm]")]
Point = tuple[Coordinate, Coordinate, Coordinate]

Turn = Annotated[float, Field(ge=-360, le=360, description="angle [deg]")]
Turns = tuple[Turn, Turn, Turn]
Axis = Literal["x", "y", "z"]

Provenance = Literal["measured", "datasheet", "typical", "guess"]
Side = Literal["left", "right", "front", "back", "bottom", "top"]


class Model(BaseModel):
    """Base of all parts of the document: unknown fields, NaN and infinities are refused."""

    model_config = ConfigDict(defer_build=True, extra="forbid", allow_inf_nan=False)


ZoneKind = Literal["plug", "card", "removal", "wires", "antenna", "sound", "air", "light"]


class Zone(Model):
    """Room before one side of a body, as it is before it is turned, that must stay free: for a plug and its cable, the way of a card or of a cell that is
    taken out, the bend of wires, an antenna, the air that a speaker moves or that cools, light or a view."""

    kind: ZoneKind
    side: Side
    depth_mm: Annotated[float, Field(gt=0, le=500)] = Field(description="how far it reaches from that side [mm]")
    margin_mm: Annotated[float, Field(ge=-100, le=100)] = Field(
        0, description="by how much it is wider than that side, all around [mm]"
    )


class Block(Model):
    """A cuboid that a body of several is made of, along the body's own axes: a board, or something that stands on it or hangs below."""

    name: Title
    at_mm: Point = Field(
        description="its corner nearest the left-front-bottom corner of the body's box, from there on [mm]"
    )
    size_mm: Size
    spare: bool = Field(False, description="it can be left off: pins or a jack that nobody uses")


class Hole(Model):
    """A round hole through a board, for a screw."""

    at_mm: tuple[Coordinate, Coordinate] = Field(
        description="its middle, along x and y from the corner of the body's box on [mm]"
    )
    diameter_mm: Annotated[float, Field(ge=0.3, le=50)]


Face = tuple[Annotated[int, Field(ge=0)], Annotated[int, Field(ge=0)], Annotated[int, Field(ge=0)]]
MOST_CORNERS, MOST_FACES = 4000, 8000  # of a surface in a document


class Surface(Model):
    """A closed surface of triangles. Whether it is closed is checked with the references (`references.py`)."""

    corners_mm: Annotated[list[Point], Field(min_length=4, max_length=MOST_CORNERS)] = Field(
        description="from the corner of the box around it on [mm]"
    )
    faces: Annotated[list[Face], Field(min_length=4, max_length=MOST_FACES)] = Field(
        description="three corners each by their position in the list, counter-clockwise from outside"
    )

    @model_validator(mode="after")
    def faces_have_corners(self) -> Surface:
        if max(max(face) for face in self.faces) >= len(self.corners_mm):
            raise ValueError("a face names a corner that is not there")
        if any(v < -SAME_MM for p in self.corners_mm for v in p):
            raise ValueError("its corners begin at the corner of the box around it, 0, 0, 0")
        return self

    @property
    def corners(self) -> Array:
        """Its corners as an array [mm], (n, 3)."""
        return np.frombuffer(self.content[0]).reshape(-1, 3)

    @cached_property
    def content(self) -> tuple[bytes, bytes]:
        """Its corners and faces, by which what follows from them is kept."""
        return np.asarray(self.corners_mm, dtype=float).tobytes(), np.asarray(self.faces, dtype=np.uint32).tobytes()

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """How far it reaches along x, y and z [mm]."""
        x, y, z = (float(v) for v in self.corners.max(axis=0))
        return x, y, z


class Window(Model):
    """What is seen of a body that lies behind its wall, as of a display: the opening is as large as this, and the wall covers the rest."""

    at_mm: tuple[Coordinate, Coordinate] = Field(
        description="its corner on the side that looks at the wall, along that side's two axes in their order, before the body is turned [mm]"
    )
    size_mm: tuple[Millimetre, Millimetre]
    film_mm: Annotated[float, Field(ge=0, le=10)] = Field(
        0, description="thickness of a film or pane between it and the wall [mm]"
    )


class Body(Model):
    """The room a thing takes: a cuboid, a cylinder, a board with what stands on it, or a body from a file; along the case's axes or turned about
    its middle."""

    size_mm: Size = Field(description="width (x), depth (y), height (z) before it is turned [mm], connectors included")
    shape: Literal["cuboid", "cylinder", "mesh", "board"] = "cuboid"
    along: Axis = Field("z", description="the axis of a cylinder, before it is turned")
    hull_mm: Annotated[list[Point], Field(max_length=MOST_HULL)] = Field(
        [], description="of a mesh, the corners of its convex hull from the corner of its box on [mm]"
    )
    surface: Surface | None = Field(None, description="of a mesh, its own surface; null: it is judged by its hull")
    file: Annotated[str, StringConstraints(max_length=200)] | None = Field(
        None, description="what the mesh was read from"
    )
    off_mm: Annotated[float, Field(ge=0, le=5)] = Field(
        0, description="of a mesh, how far its surface may be off from that of its file [mm]: kept free besides"
    )
    blocks: Annotated[list[Block], Field(max_length=40)] = Field(
        [], description="of a board: the board itself, then what stands on it and hangs below"
    )
    holes: Annotated[list[Hole], Field(max_length=16)] = Field([], description="of a board, along its z axis")
    turn_deg: Turns = Field((0, 0, 0), description="turned about the case's x, then y, then z axis [deg]")
    position_mm: Point | None = Field(
        None,
        description="corner nearest the case's outer left-front-bottom corner, before it is turned [mm]; null: not placed yet",
    )
    through: Side | None = Field(
        None, description="the side of the case this body shows or plugs through: no wall clearance there"
    )
    window: Window | None = Field(
        None, description="it lies behind the wall of that side and is seen through it; null: it reaches through"
    )
    fits: Literal["free", "sliding", "press"] = Field("free", description="how it sits between the walls")
    zones: Annotated[list[Zone], Field(max_length=6)] = []
    on: Slug | None = Field(
        None, description="the part that it is soldered or plugged onto: no gap is needed between them"
    )

    @model_validator(mode="after")
    def round_one(self) -> Body:
        if self.shape == "cylinder":
            a, b = (v for axis, v in zip("xyz", self.size_mm, strict=True) if axis != self.along)
            if abs(a - b) > SAME_MM:
                raise ValueError(f"a cylinder along {self.along} is as wide as it is deep, not {a:g} by {b:g} mm")
        return self

    @model_validator(mode="after")
    def hull_in_its_box(self) -> Body:
        if self.shape != "mesh":
            return self
        if len(self.hull_mm) < 4:
            raise ValueError("a mesh has a hull of four corners at least")
        if any(
            not -SAME_MM <= v <= side + SAME_MM for p in self.hull_mm for v, side in zip(p, self.size_mm, strict=True)
        ):
            raise ValueError("the hull of a mesh lies in the box of its size")
        own = self.surface.size_mm if self.surface else self.size_mm
        if any(a > side + SAME_MM for a, side in zip(own, self.size_mm, strict=True)):
            raise ValueError("the surface of a mesh lies in the box of its size")
        return self

    @model_validator(mode="after")
    def blocks_in_its_box(self) -> Body:
        if self.shape != "board":
            return self
        if not self.blocks:
            raise ValueError("a board has one block at least: the board itself")
        for block in self.blocks:
            for axis, at, size, side in zip("xyz", block.at_mm, block.size_mm, self.size_mm, strict=True):
                if at < -SAME_MM or at + size > side + SAME_MM:
                    raise ValueError(
                        f"{block.name} reaches from {at:g} to {at + size:g} mm along {axis}; the whole is {side:g} mm there"
                    )
        board = self.blocks[0]
        for hole in self.holes:
            radius = hole.diameter_mm / 2
            for axis, at, low, size in zip("xy", hole.at_mm, board.at_mm, board.size_mm, strict=False):
                if at - radius < low - SAME_MM or at + radius > low + size + SAME_MM:
                    raise ValueError(f"a hole of {hole.diameter_mm:g} mm at {at:g} mm along {axis} leaves the board")
        return self

    @model_validator(mode="after")
    def window_in_a_side(self) -> Body:
        if self.window is None:
            return self
        if self.through is None:
            raise ValueError("what is seen through a window shows through a side")
        return self

    @property
    def lies_straight(self) -> bool:
        """It is a cuboid along the case's axes."""
        return self.shape == "cuboid" and not any(self.turn_deg)


MOST_COPIES = 1000


class Grid(Model):
    """How several copies of a body lie beside each other: the first one at the body's place, the others in rows from there on, along the case's axes."""

    columns: Annotated[int, Field(ge=1, le=MOST_COPIES)] = Field(description="how many lie in a row")
    along: Axis = Field("x", description="the axis of a row")
    across: Axis = Field("y", description="the axis along which the rows follow each other")
    pitch_mm: Millimetre | None = Field(
        None, description="from one to the next in a row [mm]; null: side by side with the usual gap"
    )
    row_pitch_mm: Millimetre | None = Field(None, description="from one row to the next [mm]; null: the same way")

    @model_validator(mode="after")
    def two_axes(self) -> Grid:
        if self.along == self.across:
            raise ValueError(
                f"its rows lie along {self.along} and follow each other along {self.across}: that is one axis"
            )
        return self


class Origin(Model):
    """The catalogue entry that something was placed from, and its edition then."""

    key: Slug
    edition: Annotated[int, Field(ge=1, le=10000)] = 1


def fresh_id(wanted: str, taken: Container[str]) -> str:
    """`wanted`, or `wanted-2`, `wanted-3` ... where it is taken."""
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted}-{number}", number + 1
    return name


def slug(name: str, taken: Container[str], otherwise: str = "part") -> str:
    """An id from a name, that nothing else has."""
    return fresh_id(re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40].strip("-") or otherwise, taken)

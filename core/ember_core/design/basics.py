"""Quantities with their limits, and the base of all parts of the document."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

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
Size = tuple[Millimetre, Millimetre, Millimetre]
Coordinate = Annotated[float, Field(ge=-2000, le=2000, description="position [mm]")]
Point = tuple[Coordinate, Coordinate, Coordinate]

Provenance = Literal["measured", "datasheet", "typical", "guess"]
Side = Literal["left", "right", "front", "back", "bottom", "top"]


class Model(BaseModel):
    """Base of all parts of the document: unknown fields, NaN and infinities are refused."""

    model_config = ConfigDict(defer_build=True, extra="forbid", allow_inf_nan=False)


class Body(Model):
    """The room a thing takes, as a cuboid along the case's axes."""

    size_mm: Size = Field(description="width (x), depth (y), height (z) [mm], connectors included")
    position_mm: Point | None = Field(
        None, description="corner nearest the case's outer left-front-bottom corner [mm]; null: not placed yet"
    )
    through: Side | None = Field(
        None, description="the side of the case this body shows or plugs through: no wall clearance there"
    )


class Origin(Model):
    """The catalogue entry that something was placed from, and its edition then."""

    key: Slug
    edition: Annotated[int, Field(ge=1, le=10000)] = 1

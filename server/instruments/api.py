"""Instruments: kept by name and address, asked through jobs."""

from __future__ import annotations

from typing import Annotated, Literal, cast

from ninja import Router, Schema
from pydantic import AfterValidator, Field

from catalogue.services import catalogue_for
from common.requests import DESIGN_BODY, SignedIn, readable
from ember_core import read_design
from ember_core.bringup import SupplyLimits, supply_limits
from ember_core.measures.bench import TrialBench

from . import services
from .models import Instrument

Link = Literal["socket", "hislip", "vxi-11"]
router = Router(tags=["instruments"])


class InstrumentIn(Schema):
    name: Annotated[str, Field(min_length=1, max_length=80), AfterValidator(readable)]
    host: Annotated[str, Field(min_length=1, max_length=253, pattern=r"^[A-Za-z0-9.:_-]+$")]
    port: int = Field(5025, ge=1, le=65535)
    link: Link = Field("socket", description="a raw socket, HiSLIP or VXI-11")


class InstrumentOut(InstrumentIn):
    id: int
    identity: str = Field(description="as it said itself; empty where it was not asked yet")

    @classmethod
    def of(cls, row: Instrument) -> InstrumentOut:
        link = cast(Link, row.link)
        return cls(id=row.pk, name=row.name, host=row.host, port=row.port, link=link, identity=row.identity)


class Reach(Schema):
    networks: list[str] = Field(description="where this server reaches instruments; empty: nowhere")
    instruments: list[InstrumentOut]


@router.get("/instruments", response=Reach)
def list_instruments(request: SignedIn) -> Reach:
    rows = [InstrumentOut.of(row) for row in request.user.instruments.all()]
    return Reach(networks=[str(n) for n in services.networks()], instruments=rows)


@router.put("/instruments", response=InstrumentOut)
def keep_instrument(request: SignedIn, body: InstrumentIn) -> InstrumentOut:
    return InstrumentOut.of(services.keep(request.user, **body.model_dump()))


@router.delete("/instruments/{instrument_id}", response={204: None})
def remove_instrument(request: SignedIn, instrument_id: int) -> tuple[int, None]:
    services.instrument_for(request.user, instrument_id).delete()
    return 204, None


@router.post("/answers/supply-limits", response=SupplyLimits, openapi_extra=DESIGN_BODY)
def tell_limits(request: SignedIn) -> SupplyLimits:
    """What a bench supply in the battery's place may give the gadget in the body."""
    return supply_limits(TrialBench(read_design(request.body), catalogue_for(request.user)))

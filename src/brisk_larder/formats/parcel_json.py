"""A parcel of seed as an open JSON file: what each lot is, and how far it has aged, with its tests.

Ageing travels as A (probits of the viability equation) with the sd of its log10 and the dryness of
the seed, so that the receiver's forecast goes on where the giver's stopped. ``docs/parcel.md``.
"""

from __future__ import annotations

import json
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.base.errors import BadFile
from ..core.base.plain_json import read_json

FORMAT, VERSION = "brisk-larder-parcel", 1
MOST_BYTES = 2_000_000
Fraction = Annotated[float, Field(ge=0, le=1)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="ignore")


class ParcelTest(_Part):
    """A closed test: seeds, how many were alive, and the ageing at that time."""

    day: date
    seeds: Annotated[int, Field(ge=1, le=10_000)]
    viable: Annotated[int, Field(ge=0)]
    a_probit: Annotated[float, Field(ge=0, le=100)]
    medium: Literal["paper", "rolled", "top", "sand", "compost"] = "paper"
    temperature_c: Annotated[float, Field(ge=-5, le=50)] = 20.0
    weight: Fraction = 1.0


class ParcelPart(_Part):
    """Seed of one origin in a lot: its share, origin, and ageing so far."""

    share: Annotated[float, Field(gt=0, le=1)] = 1.0
    share_sd: Annotated[float, Field(ge=0, le=1)] = 0.0
    origin_from: date | None = None
    origin_to: date | None = None
    source: Literal["bought", "own", "gift", "unknown"] = "unknown"
    stated_germination: Fraction | None = None
    crossed_risk: bool = False
    from_kitchen: bool = False
    a_probit: Annotated[float, Field(ge=0, le=100)] = 0.0
    sd_log10_a: Annotated[float, Field(ge=0, le=3)] = 0.0
    erh25: Annotated[float, Field(ge=0.02, le=0.99)] = 0.45
    tests: Annotated[list[ParcelTest], Field(max_length=200)] = []


class ParcelLot(_Part):
    """One packet in the parcel."""

    code: Annotated[str, Field(max_length=40)] = ""
    kind: Annotated[str, Field(max_length=80)] = ""
    kind_name: Annotated[str, Field(max_length=120)] = ""
    variety: Annotated[str, Field(max_length=120)] = ""
    form: Annotated[str, Field(max_length=20)] = ""
    hybrid: bool = False
    treated: bool = False
    spoilt: bool = False
    note: Annotated[str, Field(max_length=400)] = ""
    seeds: Annotated[float, Field(gt=0, le=1e9)]
    seeds_sd: Annotated[float, Field(ge=0, le=1e9)] = 0.0
    as_said: Annotated[str, Field(max_length=80)] = ""
    seeds_per_g: Annotated[float, Field(gt=0, le=1e6)] | None = None
    packet: dict[str, Annotated[str, Field(max_length=200)]] = {}
    germination_now: list[Fraction] = []
    parts: Annotated[list[ParcelPart], Field(min_length=1, max_length=12)]


class ParcelFile(_Part):
    """The whole file."""

    format: Literal["brisk-larder-parcel"]
    version: Annotated[int, Field(ge=1)]
    id: Annotated[str, Field(min_length=8, max_length=64)]
    household: Annotated[str, Field(max_length=120)] = ""
    packed_on: date
    to: Annotated[str, Field(max_length=200)] = ""
    note: Annotated[str, Field(max_length=2000)] = ""
    lots: Annotated[list[ParcelLot], Field(min_length=1, max_length=500)]


def write_parcel(parcel: ParcelFile) -> str:
    """The file's text."""
    return json.dumps(
        parcel.model_dump(mode="json", exclude_none=True), indent=1, ensure_ascii=False
    )


def read_parcel(data: bytes, name: str) -> ParcelFile:
    """A parcel from a file. Raises BadFile with the place in it that cannot be."""
    if len(data) > MOST_BYTES:
        raise BadFile(f"{name} is larger than {MOST_BYTES // 1_000_000} MB: that is no parcel")
    try:
        raw: Any = read_json(data)
    except BadFile as error:
        raise BadFile(f"{name}: {error.message}") from error
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise BadFile(f"{name} is not a parcel of seed: its format is not {FORMAT!r}")
    if isinstance(raw.get("version"), int) and raw["version"] > VERSION:
        raise BadFile(
            f"{name} was packed by a newer program (version {raw['version']}): update first"
        )
    try:
        return ParcelFile.model_validate(raw)
    except ValidationError as error:
        problems = [
            {"line": 0, "field": ".".join(map(str, e["loc"])), "reason": e["msg"]}
            for e in error.errors()
        ]
        first = problems[0]
        raise BadFile(f"{name}, {first['field']}: {first['reason']}", problems) from error

"""A forecast of nights as JSON: when it was made, and the lowest temperature of each."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, field_validator

from .json_rows import Day, Moment, read_rows

MOST_NIGHTS = 60
USUAL_SD_C = 2.0  # doubt of a night's lowest where the forecast says none (guess)


class NightTold(BaseModel):
    """One night: the morning's day, lowest temperature (degC) and the doubt of it (sd)."""

    model_config = ConfigDict(strict=True, frozen=True)

    day: Day
    low_c: Annotated[float, Field(ge=-60, le=50, allow_inf_nan=False)]
    sd_c: Annotated[float, Field(ge=0, le=20, allow_inf_nan=False)] = USUAL_SD_C


class ForecastTold(BaseModel):
    """When it was made, a moment with its time zone, and its nights, each day once."""

    model_config = ConfigDict(strict=True, frozen=True)

    made: Moment
    nights: Annotated[list[NightTold], Field(min_length=1, max_length=MOST_NIGHTS)]

    @field_validator("nights")
    @classmethod
    def _each_day_once(cls, nights: list[NightTold]) -> list[NightTold]:
        if len({n.day for n in nights}) < len(nights):
            raise ValueError("each day once")
        return nights

    @property
    def made_s(self) -> int:
        """When it was made, epoch seconds."""
        return int(self.made.timestamp())


def read_nights(data: bytes) -> ForecastTold:
    """A forecast from its JSON. Raises BadFile with every wrong night by its number and field."""
    return read_rows(
        data, ForecastTold, "nights", MOST_NIGHTS, called="forecast", needs="'made' and 'nights'"
    )

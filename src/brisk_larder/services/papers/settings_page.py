"""What the household sets: where it lives, who does things, its own kinds and figures."""

from __future__ import annotations

from sqlmodel import select

from ...core.errors import InvalidValue
from ...data.acts import ActRef, act, expect_version
from ...data.tables import CropChange, OwnKind, Person
from ..forecast.stale import remark_everything
from ..household.kinds import check_overrule, reference
from ..household.larder import Larder, household, live
from ..household.settings import read_setting

# one tap for where they live: outdoor mean degC, last and first frost (day of the year, north), sd
LIVING_PLACES: dict[str, tuple[str, float, int | None, int | None, float]] = {
    "cool_upland": ("Cool hills or the far side of the temperate belt", 7.5, 135, 270, 12.0),
    "mild_coast": ("Mild coast, few frosts", 11.0, 95, 320, 15.0),
    "inland": ("Inland, warm summers and cold winters", 9.5, 122, 283, 10.0),
    "warm_dry": ("Warm, dry summers", 15.5, 70, 335, 18.0),
    "frost_free": ("No frost", 22.0, None, None, 10.0),
}


def change_household(
    larder: Larder, ref: ActRef, values: dict[str, object], version: int | None = None
) -> dict[str, object]:
    """Change settings; all forecasts follow. Raises InvalidValue or Conflict (stale version)."""
    kept = {name: read_setting(name, given) for name, given in values.items()}
    with act(larder.store, larder.clock, ref, "household") as a:
        if a.replayed:
            return a.result
        home = household(a.session)
        expect_version(home, version, "The household")
        for key, new in kept.items():
            setattr(home, key, new)
        a.session.add(home)
        a.session.flush()
        remark_everything(a.session)
        a.about("household")
        a.summary = "Changed the household's settings"
        return a.result


def settle(larder: Larder, ref: ActRef, living: str, southern: bool = False) -> dict[str, object]:
    """One tap for where they live: outdoor mean and frost dates of such a place, marked as a guess."""
    if living not in LIVING_PLACES:
        raise InvalidValue("where", living, "one of " + ", ".join(LIVING_PLACES))
    label, mean_c, last, first, sd = LIVING_PLACES[living]

    def turned(day: int | None) -> int | None:
        return day if day is None or not southern else (day + 182 - 1) % 365 + 1

    with act(larder.store, larder.clock, ref, "settle") as a:
        if a.replayed:
            return a.result
        home = household(a.session)
        home.hemisphere = "south" if southern else "north"
        home.outdoor_mean_c = mean_c
        home.last_frost_day, home.first_frost_day = turned(last), turned(first)
        home.last_frost_sd_days = home.first_frost_sd_days = sd
        home.year_starts_month = 4 if southern else 10
        home.settled = 1
        a.session.add(home)
        a.session.flush()
        remark_everything(a.session)
        a.about("household")
        a.summary = f"Said where we live: {label.lower()}"
        return a.result


def add_person(larder: Larder, ref: ActRef, name: str) -> dict[str, object]:
    """Somebody who does things here. Raises InvalidValue for an empty name."""
    if not name.strip():
        raise InvalidValue("name", name, "at least one letter")
    with act(larder.store, larder.clock, ref, "person") as a:
        if a.replayed:
            return a.result
        person = Person(name=name.strip())
        a.session.add(person)
        a.session.flush()
        a.result = {"person_id": person.id}
        a.summary = f"Added {person.name} to the household"
        return a.result


def overrule_crop(
    larder: Larder, ref: ActRef, crop: str, field: str, value: float, source: str
) -> dict[str, object]:
    """Overrule a reference figure of a crop with the household's own, and where it is from."""
    check_overrule(crop, field, value)
    if not source.strip():
        raise InvalidValue("source", source, "where the figure is from")
    with act(larder.store, larder.clock, ref, "crop_change") as a:
        if a.replayed:
            return a.result
        row = a.session.exec(
            select(CropChange).where(CropChange.crop == crop, CropChange.field == field)
        ).first() or CropChange(crop=crop, field=field, value=value, source=source)
        row.value, row.source, row.deleted_s = value, source, None
        a.session.add(row)
        a.session.flush()
        remark_everything(a.session)
        a.about(f"crop:{crop}")
        a.summary = f"Set {field.replace('_', ' ')} of {crop.replace('_', ' ')} to {value:g}"
        return a.result


def add_own_kind(
    larder: Larder, ref: ActRef, name: str, stand_in: str | None, season: str = "cool"
) -> dict[str, object]:
    """A kind outside the table: a name, a stand-in relative (or none), a wide band."""
    if not name.strip():
        raise InvalidValue("name", name, "at least one letter")
    if stand_in is not None and stand_in not in reference().crops:
        raise InvalidValue("relative", stand_in, "a kind of the table, or none")
    if season not in ("cool", "warm", "herb", "flower", "cover"):
        raise InvalidValue("season", season, "cool, warm, herb, flower or cover")
    with act(larder.store, larder.clock, ref, "own_kind") as a:
        if a.replayed:
            return a.result
        key = "own:" + "_".join(name.lower().split())
        taken = a.session.exec(select(OwnKind).where(OwnKind.key == key)).all()
        if any(live(row) for row in taken):
            raise InvalidValue("name", name, "a name that no other own kind has")
        row = OwnKind(key=key, name=name.strip(), stand_in=stand_in, season=season)
        a.session.add(row)
        a.session.flush()
        a.result = {"key": key}
        a.summary = f"Added the kind {row.name}"
        return a.result

"""What the household sets: where it lives, who does things, its own kinds and figures."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import select

from ...core.base.errors import InvalidValue
from ...data.acts import expect_version
from ...data.queries import key
from ...data.tables import CropChange, OwnKind, Person
from ..acts.acting import Doing, Done, act
from ..household.kinds import check_overrule, reference
from ..household.larder import is_live
from ..household.settings import read_setting

# one tap for where they live: outdoor mean degC, last and first frost (day of the year, north), sd
KIND_SEASONS = ("cool", "warm", "herb", "flower", "cover")
LIVING_PLACES: dict[str, tuple[str, float, int | None, int | None, float]] = {
    "cool_upland": ("Cool hills or the far side of the temperate belt", 7.5, 135, 270, 12.0),
    "mild_coast": ("Mild coast, few frosts", 11.0, 95, 320, 15.0),
    "inland": ("Inland, warm summers and cold winters", 9.5, 122, 283, 10.0),
    "warm_dry": ("Warm, dry summers", 15.5, 70, 335, 18.0),
    "frost_free": ("No frost", 22.0, None, None, 10.0),
}


@act("household")
def change_household(a: Doing, values: dict[str, object], version: int | None = None) -> Done:
    """Change settings; all forecasts follow. Raises InvalidValue or Conflict (stale version)."""
    kept = {name: read_setting(name, given) for name, given in values.items()}
    expect_version(a.home, version, "The household")
    for name, new in kept.items():
        setattr(a.home, name, new)
    if {"unplaced_kind", "unplaced_wrapper"} & kept.keys():
        a.home.unplaced_told = 1
    a.session.add(a.home)
    a.session.flush()
    a.about("household")
    a.summary = "Changed the household's settings"
    return Done()


@act("settle")
def settle(a: Doing, living: str, southern: bool = False) -> Done:
    """One tap for where they live: outdoor mean and frost dates of such a place, marked as a guess."""
    if living not in LIVING_PLACES:
        raise InvalidValue("where", living, "one of " + ", ".join(LIVING_PLACES))
    label, mean_c, last, first, sd = LIVING_PLACES[living]

    def turned(day: int | None) -> int | None:
        return day if day is None or not southern else (day + 182 - 1) % 365 + 1

    a.home.hemisphere = "south" if southern else "north"
    a.home.outdoor_mean_c = mean_c
    a.home.last_frost_day, a.home.first_frost_day = turned(last), turned(first)
    a.home.last_frost_sd_days = a.home.first_frost_sd_days = sd
    a.home.year_starts_month = 4 if southern else 10
    a.home.frost_free = int(last is None)
    a.home.settled = 1
    a.session.add(a.home)
    a.session.flush()
    a.about("household")
    a.summary = f"Said where we live: {label.lower()}"
    return Done()


@dataclass(frozen=True)
class PersonMade:
    """Somebody who was added."""

    person_id: int


@act("person")
def add_person(a: Doing, name: str) -> PersonMade:
    """Somebody who does things here. Raises InvalidValue for an empty name."""
    if not name.strip():
        raise InvalidValue("name", name, "at least one letter")
    person = Person(name=name.strip())
    a.session.add(person)
    a.session.flush()
    a.summary = f"Added {person.name} to the household"
    return PersonMade(person_id=key(person))


@act("crop_change")
def overrule_crop(a: Doing, crop: str, field: str, value: float, source: str) -> Done:
    """Overrule a reference figure of a crop with the household's own, and where it is from."""
    check_overrule(crop, field, value)
    if not source.strip():
        raise InvalidValue("source", source, "where the figure is from")
    _count_days_in_order(a, crop, field, value)
    row = a.session.exec(
        select(CropChange).where(CropChange.crop == crop, CropChange.field == field)
    ).first() or CropChange(crop=crop, field=field, value=value, source=source)
    row.value, row.source, row.deleted_s = value, source, None
    a.session.add(row)
    a.session.flush()
    a.about(f"crop:{crop}")
    a.summary = f"Set {field.replace('_', ' ')} of {crop.replace('_', ' ')} to {value:g}"
    return Done()


def _count_days_in_order(a: Doing, crop: str, field: str, value: float) -> None:
    """Raises InvalidValue when the first count would not lie before the last."""
    now = a.kinds.get(crop).crop
    first, last = now.first_count_days, now.final_count_days
    if field == "first_count_days" and value >= last:
        raise InvalidValue(field, value, f"before the last count, day {last:g}")
    if field == "final_count_days" and value <= first:
        raise InvalidValue(field, value, f"after the first count, day {first:g}")


@dataclass(frozen=True)
class KindMade:
    """The kind that was added."""

    key: str


@act("own_kind")
def add_own_kind(a: Doing, name: str, stand_in: str | None, season: str = "cool") -> KindMade:
    """A kind outside the table: a name, a stand-in relative (or none), a wide band."""
    if not name.strip():
        raise InvalidValue("name", name, "at least one letter")
    if stand_in is not None and stand_in not in reference().crops:
        raise InvalidValue("relative", stand_in, "a kind of the table, or none")
    if season not in KIND_SEASONS:
        raise InvalidValue("season", season, ", ".join(KIND_SEASONS))
    key = "own:" + "_".join(name.lower().split())
    taken = a.session.exec(select(OwnKind).where(OwnKind.key == key)).all()
    if any(is_live(row) for row in taken):
        raise InvalidValue("name", name, "a name that no other own kind has")
    row = OwnKind(key=key, name=name.strip(), stand_in=stand_in, season=season)
    a.session.add(row)
    a.session.flush()
    a.summary = f"Added the kind {row.name}"
    return KindMade(key=key)

"""Acts and changes (history, never a cache), and derived values (caches, never history)."""

from __future__ import annotations

from sqlmodel import Field, SQLModel

from .columns import Identified, strict


class Act(SQLModel, table=True):
    """One thing a person did, in one transaction, under an id made by the client. ``said``: a digest of what
    was sent for it."""

    __tablename__ = "act"
    __table_args__ = strict()

    id: str = Field(primary_key=True)
    at_s: int = Field(index=True)
    client_at_s: int
    person_id: int | None = Field(default=None, foreign_key="person.id")
    kind: str
    summary: str
    subjects: str = "[]"
    result: str = "{}"
    undoes_act_id: str | None = Field(default=None, index=True)
    schema_rev: str
    said: str = ""


class Change(Identified, table=True):
    """One row as it was and as it became, JSON of its columns; an insert has no before."""

    __tablename__ = "change"
    __table_args__ = strict()

    act_id: str = Field(foreign_key="act.id", index=True)
    seq: int
    table_name: str
    row_id: int
    before: str | None = None
    after: str


class DMonth(SQLModel, table=True):
    """State of ageing of one part at the end of one UTC month (start in ``month_s``)."""

    __tablename__ = "d_month"
    __table_args__ = strict(sqlite_with_rowid=False)

    part_id: int = Field(primary_key=True)
    month_s: int = Field(primary_key=True)
    erh25: float
    start_sd: float
    remain: float
    a_probit: float
    var_closed: float
    gap_open: float
    gap_key: int
    wall_erh: float
    wall_a: float


class DTrack(SQLModel, table=True):
    """The months of one part in one piece: their ends (epoch s) and A there (probits), both
    little-endian float64; ``last_month_s``: the row of DMonth with the last state."""

    __tablename__ = "d_track"
    __table_args__ = strict(sqlite_with_rowid=False)

    part_id: int = Field(primary_key=True)
    last_month_s: int
    ends_s: bytes
    a_probit: bytes


class DLeg(SQLModel, table=True):
    """Ageing of one part in one node in one UTC month: share by place, by episode."""

    __tablename__ = "d_leg"
    __table_args__ = strict(sqlite_with_rowid=False)

    part_id: int = Field(primary_key=True)
    month_s: int = Field(primary_key=True)
    node_id: int = Field(primary_key=True)
    a_probit: float


class _Bucket(SQLModel):
    series_id: int = Field(primary_key=True)
    at_s: int = Field(primary_key=True)
    n: int
    t_n: int
    t_sum: float
    t_min: float | None = None
    t_max: float | None = None
    h_n: int
    h_sum: float
    h_min: float | None = None
    h_max: float | None = None


class DHour(_Bucket, table=True):
    """A logger's readings drawn together by UTC hour (start in ``at_s``); humidity as fraction."""

    __tablename__ = "d_hour"
    __table_args__ = strict(sqlite_with_rowid=False)


class DDay(_Bucket, table=True):
    """The same by UTC day."""

    __tablename__ = "d_day"
    __table_args__ = strict(sqlite_with_rowid=False)


class DAir(SQLModel, table=True):
    """The erh25 inside a container at the end of a UTC month, before its own readings are read in."""

    __tablename__ = "d_air"
    __table_args__ = strict(sqlite_with_rowid=False)

    node_id: int = Field(primary_key=True)
    month_s: int = Field(primary_key=True)
    erh25: float


class DGlance(SQLModel, table=True):
    """What lists show of a lot, as JSON, for one local day."""

    __tablename__ = "d_glance"
    __table_args__ = strict()

    lot_id: int = Field(primary_key=True)
    day: str
    data: str


class DKin(SQLModel, table=True):
    """What tests of relatives say of a part: mean and sd of d (log10 sigma about the book) before its own
    cohort's tests, the share of its doubt that others share, the sd of its record in it, and the mean as a
    sum of what the household, the kind, the places and the mother line say."""

    __tablename__ = "d_kin"
    __table_args__ = strict(sqlite_with_rowid=False)

    part_id: int = Field(primary_key=True)
    d_mean: float
    d_sd: float
    shared: float
    record_sd: float
    by_house: float
    by_kind: float
    by_place: float
    by_line: float


class DEmergence(SQLModel, table=True):
    """What counted sowings say of a kind in a setting: mean and weight (seeds) of the emergence of a next
    sowing, and how many sowings of it were counted. A pair that no sowing speaks of has no row."""

    __tablename__ = "d_emergence"
    __table_args__ = strict(sqlite_with_rowid=False)

    crop: str = Field(primary_key=True)
    setting: str = Field(primary_key=True)
    mean: float
    weight: float
    sowings: int


class DSowing(SQLModel, table=True):
    """What all other sowings let a counted sowing expect: mean and sd of the logit of its emergence; and the
    chance that it failed whatever its seed."""

    __tablename__ = "d_sowing"
    __table_args__ = strict(sqlite_with_rowid=False)

    sowing_id: int = Field(primary_key=True)
    x_mean: float
    x_sd: float
    failed: float


class Dirty(SQLModel, table=True):
    """A part whose ageing must be rebuilt from ``from_s`` on; written in the act's transaction."""

    __tablename__ = "dirty"
    __table_args__ = strict()

    part_id: int = Field(primary_key=True)
    from_s: int

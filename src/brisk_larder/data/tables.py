"""All tables in one place to import from."""

from .tables_history import (
    Act,
    Change,
    DAir,
    DDay,
    DGlance,
    DHour,
    Dirty,
    DLeg,
    DMonth,
)
from .tables_household import CropChange, Household, Job, Meta, OwnKind, Person
from .tables_stock import Cohort, Lot, LotEvent, MoistureObs, Part, StockEntry, Variety
from .tables_storage import (
    Deployment,
    Device,
    DeviceSeen,
    ImportBatch,
    Node,
    NodeEvent,
    Reading,
    ReadingPast,
    Series,
    Stay,
)
from .tables_work import (
    ChainOverride,
    FoodTarget,
    ForecastNote,
    PantryEntry,
    Pick,
    Sowing,
    SowingCount,
    Trial,
    TrialCount,
)

HISTORY_TABLES = {
    model.__tablename__: model
    for model in (
        ChainOverride, Cohort, CropChange, Deployment, Device, FoodTarget, ForecastNote, Household,
        ImportBatch, Job, Lot, LotEvent, MoistureObs, Node, NodeEvent, OwnKind, PantryEntry, Part,
        Person, Pick, Series, Sowing, SowingCount, Stay, StockEntry, Trial, TrialCount, Variety,
    )
}  # fmt: skip
DERIVED_TABLES = (DMonth, DLeg, DAir, DHour, DDay, DGlance, Dirty)

__all__ = [
    "DERIVED_TABLES",
    "HISTORY_TABLES",
    "Act",
    "ChainOverride",
    "Change",
    "Cohort",
    "CropChange",
    "DAir",
    "DDay",
    "DGlance",
    "DHour",
    "DLeg",
    "DMonth",
    "Deployment",
    "Device",
    "DeviceSeen",
    "Dirty",
    "FoodTarget",
    "ForecastNote",
    "Household",
    "ImportBatch",
    "Job",
    "Lot",
    "LotEvent",
    "Meta",
    "MoistureObs",
    "Node",
    "NodeEvent",
    "OwnKind",
    "PantryEntry",
    "Part",
    "Person",
    "Pick",
    "Reading",
    "ReadingPast",
    "Series",
    "Sowing",
    "SowingCount",
    "Stay",
    "StockEntry",
    "Trial",
    "TrialCount",
    "Variety",
]

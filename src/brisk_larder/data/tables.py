"""All tables in one place to import from."""

from .tables_growing import (
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
from .tables_history import (
    Act,
    Change,
    DAir,
    DDay,
    DGlance,
    DHour,
    Dirty,
    DKin,
    DLeg,
    DMonth,
    DTrack,
)
from .tables_household import CropChange, Household, Job, Meta, OwnKind, Person
from .tables_stock import Cohort, Earmark, Lot, LotEvent, MoistureObs, Part, StockEntry, Variety
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
from .tables_taking_stock import Parcel, ParcelLine, SavedView, Stocktake, StocktakeLine

HISTORY_TABLES = {
    model.__tablename__: model
    for model in (
        ChainOverride, Cohort, CropChange, Deployment, Device, Earmark, FoodTarget, ForecastNote, Household,
        ImportBatch, Job, Lot, LotEvent, MoistureObs, Node, NodeEvent, OwnKind, PantryEntry, Parcel,
        ParcelLine, Part, Person, Pick, SavedView, Series, Sowing, SowingCount, Stay, StockEntry,
        Stocktake, StocktakeLine, Trial, TrialCount, Variety,
    )
}  # fmt: skip
DERIVED_TABLES = (DMonth, DTrack, DLeg, DAir, DHour, DDay, DGlance, DKin, Dirty)

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
    "DKin",
    "DLeg",
    "DMonth",
    "DTrack",
    "Deployment",
    "Device",
    "DeviceSeen",
    "Dirty",
    "Earmark",
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
    "Parcel",
    "ParcelLine",
    "Part",
    "Person",
    "Pick",
    "Reading",
    "ReadingPast",
    "SavedView",
    "Series",
    "Sowing",
    "SowingCount",
    "Stay",
    "StockEntry",
    "Stocktake",
    "StocktakeLine",
    "Trial",
    "TrialCount",
    "Variety",
]

"""Work on the stock at Pellwick Mill: families, a mixed bag, a bulk lot, parcels, a stocktake begun."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlmodel import select

from ..core.base.units import DAY_S, local_day
from ..data.acts import ActRef
from ..data.tables import Part
from ..services.acts import entry, ledger, lot_acts
from ..services.acts.new_seeds import NewSeeds
from ..services.forecast import lines
from ..services.papers import parcels, settings_page
from ..services.stock import filing_page, splitting, stocktakes
from .mill import TZ, last_summer

if TYPE_CHECKING:
    from .mill import Pellwick

# variety and its tags
TAGS = {
    "Evening Plum": "greenhouse", "Crock Gherkin": "for the crock", "Market Day": "by the gate",
    "Kitchen Sill": "greenhouse",
}  # fmt: skip


def do(mill: Pellwick) -> None:
    """All of it, at the end of the replay, so that the years before it are left as they were."""
    # long: a diary, day after day
    larder = mill.larder

    def who() -> ActRef:
        return ActRef(person_id=mill.people[0])

    def add(**more: object) -> int:
        more.setdefault("since", "since it came")
        done = entry.add_seeds(larder, who(), [NewSeeds(**more)])  # type: ignore[arg-type]
        return done.lot_ids[0]

    settings_page.change_household(
        larder, who(), {"currency": "crowns", "unplaced_kind": "inner_cupboard"}
    )
    year = _year(mill)
    last_august = local_day(last_summer(mill.end_s, 8, 25), TZ).year
    old = add(
        kind="pea",
        variety="Millrace",
        date=f"Sep {year - 5}",
        quantity="about 60",
        source="own",
        node_id=mill.nodes["Album"],
        kept_line=True,
        note="the last of the long row",
    )
    lot_acts.edit_lot(larder, who(), mill.lots["Millrace"], lot_acts.LotEdit(mother_lot_id=old))
    add(
        kind="pea",
        variety="Millrace",
        date=f"Aug {last_august}",
        quantity="140",
        source="own",
        node_id=mill.nodes["Album"],
        section="peas",
        slot="3",
        kept_line=True,
        mother_cohort_id=_cohort(mill, mill.lots["Millrace"]),
        tags="seed bed",
    )
    add(
        kind="marigold_tagetes",
        variety="Mill Steps",
        quantity="about 400",
        source="own",
        date=f"{year - 5}: 50, {year - 4}: 30, {year - 2}: 20",
        node_id=mill.nodes["Album"],
        note="blue jar, three summers shaken together",
    )
    add(
        kind="pea",
        variety="Early Sluice",
        date=f"{year - 1}",
        quantity="1 packet",
        treated=True,
        seller="Fellside seed barn",
        price=3.2,
        packet_count=120,
        packet_sow_window="Mar to May",
        packet_depth_cm=4.0,
        packet_days_to_sprout="7 to 12",
        node_id=mill.nodes["Tin 1"],
        stated_germination=0.85,
    )
    bulk = add(
        kind="bean_bush",
        variety="Pellwick Speckle",
        date=f"Oct {year - 1}",
        quantity="11 kg",
        source="own",
        node_id=mill.nodes["Meal chest"],
        intended_use="food",
    )
    ledger.weigh_seeds(larder, who(), bulk, 100, 38.0)
    add(
        kind="squash_maxima",
        variety="from the market squash",
        date=f"{year}",
        quantity="a pinch",
        source="unknown",
        from_kitchen=True,
        crossed_risk=True,
        node_id=mill.nodes["Stair tin 2"],
    )
    larder_shelf = mill.nodes["Stone larder"]
    for kind, variety, amount, source in (
        ("potato", "Undershot Kidney", "45 tubers", "own"), ("garlic", "Gritstone", "14 heads", "own"),
        ("onion sets", "Copper Kettle", "250", "bought"),
    ):  # fmt: skip
        add(
            kind=kind, variety=variety, date=str(last_august), quantity=amount, source=source,
            node_id=larder_shelf,
        )  # fmt: skip
    for variety, tags in TAGS.items():
        if variety in mill.lots:
            lot_acts.edit_lot(larder, who(), mill.lots[variety], lot_acts.LotEdit(tags=tags))
    splitting.split_lot(
        larder,
        who(),
        mill.lots["Noon Gold"],
        "60",
        node_id=mill.nodes["Porch box"],
        note="for the verge",
    )
    ledger.set_aside(larder, who(), mill.lots["Pellwick Red"], "food", "1500")
    lot_acts.edit_lot(larder, who(), mill.lots["Quern"], lot_acts.LotEdit(state="fetched"))
    _give(mill)
    _stocktake(mill)
    filing_page.save_view(larder, who(), "As the tins stand", "season", "", True)
    filing_page.save_view(larder, who(), "By family, for the beds", "family")


def _give(mill: Pellwick) -> None:
    larder = mill.larder

    def ref() -> ActRef:
        return ActRef(person_id=mill.people[1])

    made = parcels.promise(
        larder,
        ref(),
        "Wenna at the ford",
        {mill.lots["Tall Beacon"]: "12", mill.lots["Rust Button"]: "40"},
        "for the new plot",
    )
    parcel = made.parcel_id
    parcels.pack(larder, ref(), parcel)
    parcels.send(larder, ref(), parcel)
    parcels.promise(larder, ref(), "Tam of Highgarth", {mill.lots["Quern"]: "6"})


def _stocktake(mill: Pellwick) -> None:
    larder = mill.larder

    def ref() -> ActRef:
        return ActRef(person_id=mill.people[0])

    mill.clock.at_s = mill.end_s - 3600
    made = stocktakes.begin(larder, ref(), mill.nodes["Trunk"])
    take = made.stocktake_id
    for i, line in enumerate(
        x for x in lines.lot_lines(larder) if x.node_id == mill.nodes["Trunk"]
    ):
        if i > 1:
            break
        stocktakes.mark_lot_found(larder, ref(), take, line.lot_id, "found")
    stocktakes.pause(larder, ref(), take)
    mill.clock.at_s = mill.end_s


def _cohort(mill: Pellwick, lot: int) -> int:
    with mill.larder.store.read() as session:
        part = session.exec(select(Part).where(Part.lot_id == lot)).first()
        assert part is not None, "a lot has a part"
        return part.cohort_id


def _year(mill: Pellwick) -> int:
    return local_day(mill.end_s - 20 * DAY_S, "Europe/London").year

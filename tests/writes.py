"""A body that means something for every path that writes, with ids of what is there."""

from collections.abc import Sequence
from random import Random

from sqlalchemy import text

from brisk_larder.services.household.larder import Larder

LIVE = "deleted_s IS NULL"
WHERE = {
    "lot": ("lot", "state = 'here' AND form = ''"),
    "node": ("node", "container_kind IS NOT NULL AND id > 0"),
    "place": ("node", "place_kind IS NOT NULL AND container_kind IS NULL AND id > 0"),
    "series": ("series", "id IN (SELECT series_id FROM reading)"),
    "device": ("device", "revoked_s IS NULL"),
    "trial": ("trial", "closed_s IS NULL"),
    "sowing": ("sowing", "settled_s IS NULL"),
    "food": ("food_target", "year = (SELECT max(year) FROM food_target)"),
    "last_food": ("food_target", "year < (SELECT max(year) FROM food_target)"),
    "harvest": ("harvest", "1 = 1"),
    "pick": ("pick", "1 = 1"),
    "offer": ("seed_offer", "packs_left IS NULL OR packs_left > 0"),
    "wish": ("wanted_seed", "1 = 1"),
    "order": ("seed_order", "state = 'ordered'"),
    "stocktake": ("stocktake", "state <> 'done'"),
    "promised": ("parcel", "state = 'promised'"),
    "packed": ("parcel", "state = 'packed'"),
    "view": ("saved_view", "1 = 1"),
    "job": ("job", "kind = 'own'"),
    "variety": ("variety", "kept_line = 1"),
    "empty": ("node", "name = 'loft'"),
}


class There:
    """What is there at this moment: ``there.lot`` is the id of some lot, chosen by the dice; 0: none is."""

    def __init__(self, larder: Larder, dice: Random | None = None) -> None:
        self.larder, self.dice = larder, dice

    def all(self, name: str) -> Sequence[int]:
        """Ids of all that are live of a name of WHERE."""
        table, where = WHERE[name]
        with self.larder.store.read() as session:
            found = session.connection().execute(
                text(f"SELECT id FROM {table} WHERE {LIVE} AND ({where}) ORDER BY id")
            )
            return [int(row[0]) for row in found]

    def __getattr__(self, name: str) -> int:
        found = self.all(name)
        if not found:
            return 0
        made = name not in ("lot", "node", "place")  # the last of what is made on the way
        return self.dice.choice(found) if self.dice else found[-1 if made else 0]

    def but(self, name: str, *others: int) -> int:
        """Some other one."""
        found = [x for x in self.all(name) if x not in others]
        return 0 if not found else self.dice.choice(found) if self.dice else found[0]

    def reading(self) -> tuple[int, int]:
        """Series and time of a reading."""
        with self.larder.store.read() as session:
            row = session.connection().execute(
                text("SELECT series_id, at_s FROM reading ORDER BY at_s DESC LIMIT 1")
            )
            series, at = row.first() or (0, 0)
            return int(series), int(at)

    def year(self, least: int = 2028) -> int:
        """A year of the plan."""
        return least + (self.dice.randrange(3) if self.dice else 0)


def all_writes(i: There, proposed: str = "") -> list[tuple[str, str, object]]:
    """(method, path, body) of every path that writes, in an order in which each finds what it needs;
    ``proposed``: the key of a job that is proposed."""
    lot, node, place = i.lot, i.node, i.place
    series, at = i.reading()
    variety = i.variety
    return [
        ("post", "/api/household/settle", {"living": "inland"}),
        ("patch", "/api/household", {"values": {"name": "The mill"}}),
        ("post", "/api/people", {"name": "Brandic"}),
        ("post", "/api/stock/many", {"what": "tag", "lot_ids": [lot], "tags": "early"}),
        ("post", "/api/jobs/own", {"text": "turn the jars"}),
        ("patch", f"/api/jobs/own/{i.job}", {"text": "turn them twice"}),
        ("post", "/api/kinds", {"name": f"skirret {i.dice.randrange(10**6) if i.dice else ''}".strip()}),
        ("post", "/api/crops/overrule", {
            "crop": "kale", "field": "seeds_per_g", "value": 300, "source": "our scales",
        }),
        ("post", "/api/stock/lots", {"packets": [{"kind": "pea"}]}),
        ("patch", f"/api/stock/lots/{lot}", {"note": "by the door"}),
        ("post", f"/api/stock/lots/{lot}/move", {"node_id": i.but("place", 0)}),
        ("post", f"/api/stock/lots/{lot}/quantity", {"amount": "80"}),
        ("post", f"/api/stock/lots/{lot}/weigh", {"count": 100, "mass_g": 0.4}),
        ("post", f"/api/stock/lots/{lot}/aside", {"intended_use": "swap", "amount": "20"}),
        ("post", f"/api/stock/lots/{lot}/split", {"amount": "10"}),
        ("post", f"/api/stock/lots/{lot}/merge", {"other_ids": [i.but("lot", lot)], "anyway": True}),
        ("post", "/api/stock/sheet", {"text": "kind,name\npea,Millrace", "mapping": {"kind": 0}}),
        ("post", "/api/stock/views", {"name": "by age", "group": "age", "filing": True}),
        ("delete", f"/api/stock/views/{i.view}", None),
        ("post", f"/api/stock/stocktakes/nodes/{node}", None),
        ("post", f"/api/stock/stocktakes/{i.stocktake}/lots", {"lot_id": lot, "result": "found"}),
        ("post", f"/api/stock/stocktakes/{i.stocktake}/code", {"code": "K1"}),
        ("post", f"/api/stock/stocktakes/{i.stocktake}/pause", None),
        ("post", f"/api/stock/stocktakes/{i.stocktake}/finish", {"rest": "missing"}),
        ("post", "/api/stock/triage", {"lot_id": lot, "decision": "sow_thick"}),
        ("post", "/api/stock/school", {"school": "count"}),
        ("post", "/api/papers/parcels", {"person": "Wenna", "lots": {str(lot): "5"}}),
        ("post", f"/api/papers/parcels/{i.promised}/pack", {"anyway": True}),
        ("post", f"/api/papers/parcels/{i.packed}/send", None),
        ("delete", f"/api/papers/parcels/{i.promised}", None),
        ("post", f"/api/stock/lots/{lot}/events", {"kind": "insects"}),
        ("post", "/api/storage/nodes", {"name": "loft", "place_kind": "attic"}),
        ("post", f"/api/storage/nodes/{node}/move", {"parent_id": i.but("place", 0)}),
        ("post", f"/api/storage/nodes/{node}/since", {"since": "since about 2025"}),
        ("patch", f"/api/storage/nodes/{node}", {"name": "Tin 9"}),
        ("post", f"/api/storage/nodes/{node}/events", {"kind": "opened"}),
        ("post", f"/api/storage/nodes/{place}/readings", {"temperature": 9, "humidity_pct": 40}),
        ("post", "/api/storage/round", {
            "stops": [{"node_id": node, "humidity_pct": 51, "opened": True, "note": "musty"}],
        }),
        ("put", "/api/storage/round/order", {"node_ids": [node]}),
        ("post", f"/api/storage/nodes/{node}/out", {}),
        ("post", f"/api/storage/nodes/{node}/back", None),
        ("post", f"/api/storage/nodes/{node}/events", {"kind": "sealed"}),
        ("post", f"/api/storage/nodes/{node}/desiccant", {"mass_g": 20}),
        ("post", "/api/storage/dryness", {"lot_ids": [lot], "humidity_pct": 41, "dial": 20}),
        ("post", "/api/storage/devices", {"name": "sender", "node_id": node}),
        ("post", f"/api/storage/devices/{i.device}/move", {"node_id": place}),
        ("post", f"/api/storage/devices/{i.device}/revoke", {}),
        ("post", "/api/storage/best-use/jobs", {"moves": [{"lot_id": lot, "node_id": place}]}),
        ("patch", f"/api/storage/readings/{series}/{at}", {"temperature": 14, "humidity_pct": 44}),
        ("post", "/api/tests", {"lot_id": lot, "n": 10}),
        ("post", "/api/tests/past", {"lot_id": lot, "n": 10, "up": 8, "on": "yesterday"}),
        ("post", "/api/tests/told", {"lot_id": lot, "germination": 0.8}),
        ("post", f"/api/tests/{i.trial}/counts", {"count": {"normal": 4}}),
        ("post", f"/api/tests/{i.trial}/drop", {"why": "dried out"}),
        ("put", "/api/tests/spots", [{"name": "kitchen sill", "temperature_c": 20}]),
        ("post", "/api/needs/foods", {"product": "kale, frozen", "per_week": 1, "weeks": 20}),
        ("put", f"/api/needs/foods/{i.food}/links", {"link": "plants", "value": 12}),
        ("post", "/api/needs/pantry", {"product": "kale, frozen", "kind": "counted", "units": 3}),
        ("post", "/api/needs/foods/take-over", {"foods": [{"target_id": i.last_food, "per_week": 0.5}]}),
        ("post", "/api/needs/foods/less", {"shares": [{"key": f"food:{i.food}", "share": 0.5}]}),
        ("delete", f"/api/needs/foods/{i.food}", None),
        ("post", "/api/needs/harvests", {"crop": "kale", "year": 2025, "plants": 9, "mass_kg": 4}),
        ("delete", f"/api/needs/harvests/{i.harvest}", None),
        ("put", "/api/needs/jars", {"litres": 0.5, "owned": 40, "lids": 12}),
        ("post", "/api/needs/picks", {"lot_id": lot, "plants": 5, "anyway": True}),
        ("delete", f"/api/needs/picks/{i.pick}", None),
        ("post", "/api/needs/basket/offers", {
            "seller": "Rushbank", "kind": "pea", "pack_seeds": 100, "price": 2.5,
        }),
        ("post", "/api/needs/basket/wishes", {"kind": "pea"}),
        ("delete", f"/api/needs/basket/wishes/{i.wish}", None),
        ("put", "/api/needs/basket/budget", {"money": 40}),
        ("post", "/api/needs/basket/orders", {"packs": {str(i.offer): 2}}),
        ("post", f"/api/needs/basket/orders/{i.order}/never", None),
        ("post", "/api/needs/basket/orders", {"packs": {str(i.offer): 1}}),
        ("post", "/api/needs/basket/orders/came", {"order_ids": [i.order]}),
        ("delete", f"/api/needs/basket/offers/{i.offer}", None),
        ("post", "/api/calendar", None),
        ("delete", "/api/calendar", None),
        ("post", "/api/growing/years", {"variety_id": variety, "year": i.year(), "anyway": True}),
        ("post", "/api/growing/years/bar", {"variety_id": variety, "year": i.year()}),
        ("post", "/api/growing/years/free", {"variety_id": variety, "year": i.year()}),
        ("post", "/api/growing/years/all", {"year": i.year()}),
        ("put", f"/api/growing/lines/{variety}", {"purity": "strict"}),
        ("put", "/api/growing/calendar/kale/outdoors", {"first": "05-01", "last": "06-10"}),
        ("delete", "/api/growing/calendar/kale/outdoors", None),
        ("put", "/api/growing/limits", {"seed_lines": 4, "next_door": []}),
        ("post", "/api/sowings", {"lot_id": lot, "n": 12}),
        ("post", f"/api/sowings/{i.sowing}/counts", {"up": 3}),
        ("put", "/api/jobs", {"origin_key": proposed, "state": "in_progress"}),
        ("delete", f"/api/storage/readings/{series}/{at}", None),
        ("delete", f"/api/storage/nodes/{i.empty}", None),
    ]  # fmt: skip

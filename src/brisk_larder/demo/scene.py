"""What stands and lies at Pellwick Mill: an invented household in an invented upland valley."""

from __future__ import annotations

from typing import Any, NamedTuple

PEOPLE = ("Ysolde", "Tamsel", "Brandic")

# name, kind of place
PLACES = (
    ("Stone larder", "larder"),
    ("Loft", "attic"),
    ("Stairs", "inner_cupboard"),
    ("Kitchen freezer", "freezer_deep"),
    ("South porch", "porch"),
    ("Greenhouse", "greenhouse"),
)


class Container(NamedTuple):
    """A container: name, kind, place, room for lots, days between readings by eye (0: never)."""

    name: str
    kind: str
    place: str
    capacity: int
    read_every: int


CONTAINERS = (
    Container("Tin 1", "metal_tin_plain", "Stone larder", 30, 18),
    Container("Tin 2", "metal_tin_gasket", "Stone larder", 24, 25),
    Container("Jar 3", "glass_jar_gasket", "Stone larder", 10, 40),
    Container("Meal chest", "wooden_box", "Stone larder", 8, 21),
    Container("Bean can", "metal_can_soldered_or_seamed", "Stone larder", 1, 0),
    Container("Trunk", "wooden_box", "Loft", 40, 24),
    Container("Hat box", "cardboard_box", "Loft", 20, 0),
    Container("Stair tin 1", "metal_tin_plain", "Stairs", 25, 30),
    Container("Stair tin 2", "metal_tin_plain", "Stairs", 25, 35),
    Container("Album", "cardboard_box", "Stairs", 60, 0),
    Container("Drawer box", "plastic_tub_gasket_clip", "Kitchen freezer", 18, 45),
    Container("Door tub", "plastic_tub_snap", "Kitchen freezer", 6, 60),
    Container("Porch box", "plastic_tub_snap", "South porch", 15, 0),
    Container("Crate", "wooden_box", "Greenhouse", 20, 28),
    Container("Potting tin", "metal_tin_plain", "Greenhouse", 8, 0),
)


class Kept(NamedTuple):
    """A lot: kind, variety, age in years, seeds, source, container, kept line, hybrid."""

    kind: str
    variety: str
    age: float
    seeds: int
    source: str
    container: str
    kept: bool = False
    hybrid: bool = False


# what the mill says of a type that the name does not tell
TYPES = {
    "Ferrywoman": "pods,dry", "Tarn Speckle": "dry", "Blue Ladder": "pods,dry", "Gossamer": "sweet",
}  # fmt: skip
LOTS = (
    Kept("pea", "Millrace", 1, 210, "own", "Tin 2", True),
    Kept("pea", "Sluicegate Sugar", 2, 90, "bought", "Tin 1"),
    Kept("pea", "Grey Heron", 4, 150, "own", "Trunk", True),
    Kept("broad_bean", "Miller's Thumb", 2, 120, "own", "Meal chest", True),
    Kept("broad_bean", "Weirside", 5, 60, "gift", "Trunk"),
    Kept("bean_pole", "Ferrywoman", 1, 900, "own", "Meal chest", True),
    Kept("bean_pole", "Tarn Speckle", 3, 46, "own", "Porch box", True),
    Kept("bean_pole", "Blue Ladder", 4, 70, "gift", "Crate"),
    Kept("bean_bush", "Pellwick Dwarf", 2, 400, "own", "Jar 3", True),
    Kept("bean_bush", "Yellow Shuttle", 3, 60, "bought", "Tin 1"),
    Kept("bean_bush", "Cobblestone", 6, 150, "own", "Trunk"),
    Kept("runner_bean", "Scarlet Sail", 3, 55, "own", "Crate", True),
    Kept("runner_bean", "White Sail", 1, 80, "own", "Meal chest"),
    Kept("onion", "Brackenbulb", 2, 420, "own", "Trunk", True),
    Kept("onion", "Copper Kettle", 1, 300, "bought", "Tin 2"),
    Kept("onion", "Longkeep", 3, 250, "bought", "Stair tin 1"),
    Kept("leek", "Winter Pillar", 0, 320, "own", "Tin 1", True),
    Kept("leek", "Fogbound", 4, 180, "bought", "Stair tin 2"),
    Kept("bunching_onion", "Green Rushes", 2, 200, "bought", "Stair tin 1"),
    Kept("chive", "Doorstep", 3, 150, "gift", "Album"),
    Kept("carrot", "Ember Root", 1, 1400, "own", "Tin 2", True),
    Kept("carrot", "Valley Amber", 3, 900, "bought", "Tin 1"),
    Kept("carrot", "Short Lantern", 5, 600, "bought", "Album"),
    Kept("parsnip", "Old Weir", 1, 290, "own", "Trunk", True),
    Kept("parsnip", "Long Candle", 2, 150, "bought", "Stair tin 2"),
    Kept("celery", "Brookgreen", 2, 800, "bought", "Album"),
    Kept("celeriac", "Boulder", 3, 500, "bought", "Tin 1"),
    Kept("parsley", "Curled Moss", 2, 260, "own", "Stair tin 1", True),
    Kept("parsley", "Flat Ribbon", 4, 200, "bought", "Album"),
    Kept("dill", "Mill Dill", 2, 800, "own", "Stair tin 2"),
    Kept("coriander", "Slow Coach", 2, 220, "own", "Stair tin 2"),
    Kept("cabbage", "Stone Sentry", 2, 180, "own", "Tin 2", True),
    Kept("cabbage", "Blue Drum", 4, 120, "bought", "Tin 1"),
    Kept(
        kind="cabbage",
        variety="Frostmark",
        age=1,
        seeds=60,
        source="bought",
        container="Drawer box",
        kept=False,
        hybrid=True,
    ),
    Kept("kale", "Slate Curl", 3, 700, "own", "Tin 2", True),
    Kept("kale", "Rook's Feather", 5, 260, "own", "Stair tin 1", True),
    Kept("broccoli", "Green Tithe", 3, 90, "bought", "Tin 1"),
    Kept("cauliflower", "Snowbank", 4, 70, "bought", "Porch box"),
    Kept("kohlrabi", "Quernstone", 2, 110, "bought", "Tin 1"),
    Kept("brussels_sprout", "Button Row", 3, 85, "bought", "Stair tin 2"),
    Kept("turnip", "Half Moon", 2, 500, "own", "Album"),
    Kept("swede", "Barrow", 3, 240, "bought", "Tin 1"),
    Kept("radish", "Redshank", 2, 400, "own", "Stair tin 1"),
    Kept("radish", "Winter Coal", 4, 160, "bought", "Potting tin"),
    Kept("rocket", "Spillway", 2, 900, "own", "Potting tin"),
    Kept("mustard_greens", "Giant Apron", 3, 350, "gift", "Album"),
    Kept("chinese_cabbage", "Pale Barrel", 2, 130, "bought", "Tin 1"),
    Kept("beet", "Darkwater", 2, 320, "own", "Tin 2", True),
    Kept("beet", "Gilded Globe", 4, 140, "bought", "Stair tin 2"),
    Kept("chard", "Painted Stalk", 3, 210, "own", "Stair tin 1"),
    Kept("spinach", "Broadleaf Ford", 2, 450, "bought", "Tin 1"),
    Kept("orach", "Rusty Gate", 4, 300, "gift", "Album"),
    Kept("lettuce", "Lantern Frill", 1, 900, "own", "Drawer box", True),
    Kept("lettuce", "Winter Lamb", 3, 600, "own", "Drawer box", True),
    Kept("lettuce", "Copper Oak", 4, 400, "bought", "Porch box"),
    Kept("lettuce", "May Prince", 5, 350, "bought", "Crate"),
    Kept("endive", "Bittersweet Ruff", 3, 260, "bought", "Album"),
    Kept("tomato", "Little Ember", 2, 160, "own", "Jar 3", True),
    Kept("tomato", "Wheelwright", 3, 90, "own", "Jar 3", True),
    Kept("tomato", "Amber Pear", 6, 45, "gift", "Stair tin 1"),
    Kept(
        kind="tomato",
        variety="Sauce Barrel",
        age=1,
        seeds=40,
        source="bought",
        container="Tin 2",
        kept=False,
        hybrid=True,
    ),
    Kept("sweet_pepper", "Red Bellows", 2, 60, "own", "Jar 3", True),
    Kept("sweet_pepper", "Yellow Horn", 4, 35, "bought", "Porch box"),
    Kept("hot_pepper", "Chimney Spark", 3, 50, "own", "Jar 3"),
    Kept("aubergine", "Evening Plum", 3, 40, "bought", "Tin 1"),
    Kept("tomatillo", "Paper Lantern", 4, 120, "gift", "Hat box"),
    Kept("cucumber", "Cool Sleeve", 2, 55, "own", "Tin 2", True),
    Kept("cucumber", "Crock Gherkin", 4, 80, "bought", "Stair tin 1"),
    Kept("melon", "Hearthside", 5, 25, "gift", "Hat box"),
    Kept("squash_maxima", "Quern", 3, 38, "own", "Stair tin 1", True),
    Kept("squash_maxima", "Grey Boulder", 5, 22, "gift", "Trunk"),
    Kept("squash_pepo", "Green Ewer", 2, 30, "own", "Stair tin 2"),
    Kept("squash_moschata", "Buttercask", 3, 26, "bought", "Stair tin 2"),
    Kept("maize", "Gossamer", 2, 300, "own", "Crate", True),
    Kept("maize", "Flint Hearth", 4, 260, "own", "Trunk"),
    Kept("okra", "Green Finger", 3, 60, "bought", "Hat box"),
    Kept("basil", "Kitchen Sill", 2, 600, "bought", "Stair tin 2"),
    Kept("sunflower", "Tall Beacon", 3, 90, "own", "Hat box"),
    Kept("marigold_tagetes", "Rust Button", 2, 260, "own", "Album"),
    Kept("calendula", "Noon Gold", 3, 220, "own", "Album"),
    Kept("zinnia", "Market Day", 3, 160, "bought", "Porch box"),
    Kept("cosmos", "Hedge Veil", 4, 140, "gift", "Album"),
    Kept("amaranth", "Red Tassel", 4, 2000, "gift", "Hat box"),
    Kept("quinoa", "Pebble", 3, 800, "gift", "Hat box"),
    Kept("flax", "Blue Mile", 2, 3000, "own", "Meal chest"),
    Kept("wheat", "Pellwick Red", 2, 4000, "own", "Meal chest"),
    Kept("buckwheat", "Brown Wing", 3, 1500, "bought", "Meal chest"),
    Kept("red_clover", "Bee Meadow", 2, 5000, "bought", "Potting tin"),
    Kept("soybean", "Green Thimble", 3, 90, "bought", "Porch box"),
    Kept("lentil", "Slate Bead", 4, 300, "gift", "Trunk"),
)

# product of the book, name in the house, a week, weeks, jars or kilos on the shelf
FOODS = (
    ("green beans (pole), pressure canned", "Green beans", 2.0, 40, 9),
    ("onions, cured and stored", "Onions", 1.2, 40, 4),
    ("sweetcorn, cut, frozen", "Sweetcorn", 0.8, 26, 4),
    ("tomato sauce, thin", "Tomato sauce", 2.0, 44, 31),
    ("sauerkraut", "Sauerkraut", 0.8, 40, 11),
    ("dry beans, stored", "Dry beans", 0.3, 50, 5),
    ("carrots, root cellar", "Carrots", 1.0, 26, 0),
    ("winter squash (maxima), stored", "Winter squash", 1.0, 24, 6),
    ("leeks, frozen sliced", "Leeks", 0.5, 30, 3),
    ("peas, shelled, frozen", "Peas", 0.4, 40, 2),
    ("beets, root cellar", "Beetroot", 0.6, 22, 1),
    ("pickled beets", "Pickled beetroot", 0.3, 40, 8),
    ("kale, frozen", "Kale", 0.4, 26, 2),
    ("parsnips, root cellar", "Parsnips", 0.5, 20, 0),
    ("fermented cucumber pickles", "Crock gherkins", 0.4, 40, 6),
    ("swede, root cellar", "Swede", 0.4, 16, 0),
    ("cabbage, root cellar", "Winter cabbage", 0.8, 18, 2),
    ("fresh lettuce", "Salad", 0.6, 24, 0),
    ("sweet peppers, frozen", "Sweet peppers", 0.2, 30, 3),
    ("hot peppers, dried", "Dried hot peppers", 0.01, 52, 0.2),
)

# variety, plants, purpose
PICKS = (
    ("Noon Gold", 40, "bees"),
    ("Tall Beacon", 12, "joy"),
    ("Market Day", 30, "joy"),
    ("Hedge Veil", 24, "joy"),
    ("Rust Button", 30, "bees"),
    ("Bee Meadow", 900, "soil"),
    ("Brown Wing", 400, "soil"),
    ("Blue Ladder", 20, "trial"),
    ("Red Tassel", 15, "joy"),
    ("Kitchen Sill", 12, "table"),
    ("Winter Lamb", 30, "table"),
    ("Hearthside", 6, "trial"),
)

# who sold a variety and for how much, as the packet's stamp says
SELLERS: dict[str, dict[str, Any]] = {
    "Brackenbulb": {"seller": "Fellside seed barn", "price": 2.8},
    "Evening Plum": {"seller": "Fellside seed barn", "price": 3.4},
    "Crock Gherkin": {"seller": "Dunnock & Daughter", "price": 2.2},
    "Market Day": {"seller": "Dunnock & Daughter", "price": 1.9},
    "Kitchen Sill": {"seller": "Fellside seed barn", "price": 2.1},
}

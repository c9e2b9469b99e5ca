"""How people head the columns of a list of packets, and the words they use in it."""

from __future__ import annotations

COLUMNS: dict[str, tuple[str, ...]] = {
    "kind": ("kind", "crop", "what", "vegetable", "plant", "type"),
    "variety": ("variety", "name", "sort", "cultivar"),
    "year": ("year", "date", "packed", "harvested", "from year", "bought in"),
    "quantity": ("quantity", "amount", "how much", "seeds", "left", "weight"),
    "source": ("source", "from", "origin", "where from"),
    "germination": ("germination", "stated germination", "germ", "germ %"),
    "note": ("note", "notes", "remarks", "comment"),
    "hybrid": ("hybrid", "f1"),
    "kept_line": ("keep", "keep line", "save"),
    "place": ("place", "where", "container", "box", "tin", "kept in"),
    "since": ("since", "there since", "since when"),
    "section": ("section", "compartment"),
    "slot": ("slot", "pocket", "position"),
    "sure": ("sure", "how sure"),
    "seller": ("seller", "shop", "supplier"),
    "person_from": ("person", "given by", "giver"),
    "price": ("price", "cost", "paid"),
    "tags": ("tags", "tag"),
    "intended_use": ("use", "meant for", "purpose"),
    "treated": ("treated", "dressed"),
    "packet_sow_window": ("sow", "sowing", "sow in", "window"),
    "packet_depth_cm": ("depth", "depth cm"),
    "packet_days_to_sprout": ("days to sprout", "sprouts in", "days up"),
    "packet_days_to_harvest": ("days to harvest", "maturity", "days"),
    "packet_count": ("seeds in packet", "packet count", "contents"),
    "code": ("code", "no", "number", "label"),
}
OWN_WORDS = ("own", "home", "saved", "our", "self")
GIFT_WORDS = ("gift", "swap", "friend", "neighbour", "given", "aunt", "uncle")
YES_WORDS = ("yes", "y", "x", "true", "1", "f1", "hybrid", "treated")

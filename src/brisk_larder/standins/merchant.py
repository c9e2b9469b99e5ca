"""A simulated seed merchant: its list of packets, as one would send it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import date, timedelta

import numpy as np

FIRST = (
    "Weir",
    "Tarn",
    "Gritstone",
    "Otter",
    "Beck",
    "Fell",
    "Lintel",
    "Sorrel",
    "Harrow",
    "Lantern",
)
SECOND = (
    "Early",
    "Giant",
    "Scarlet",
    "Long",
    "Round",
    "Hardy",
    "Frill",
    "Candle",
    "Comet",
    "Keeper",
)
# kinds that a merchant sells by the name of what is in the packet
CALLED = {"maize": ("sweet corn", "popcorn"), "pea": ("shelling pea", "snap pea")}


def merchant_json(
    name: str, kinds: Mapping[str, tuple[float, float]], today: date, seed: int, share: float = 0.8
) -> str:
    """A list of packets of a share of all kinds: sizes, prices and stated germination around what the table
    says of new seed. ``kinds``: seeds to the gram and the germination of new seed. Seeded: the same arguments
    give the same list."""
    rng = np.random.default_rng(seed)
    offers = []
    for key, (per_g, typical) in kinds.items():
        for n in range(int(rng.integers(1, 3))):
            if rng.random() > share:
                continue
            grams = float(rng.choice([0.5, 1.0, 2.0, 5.0, 20.0]))
            seeds = max(10, int(np.clip(grams * per_g, 10, 1500) // 5 * 5))
            stated = float(np.clip(typical + rng.normal(0, 0.04), 0.3, 0.99))
            offers.append({
                "ref": f"{key}-{n + 1}",
                "kind": CALLED.get(key, (key,))[n % len(CALLED.get(key, (key,)))],
                "variety": f"{rng.choice(FIRST)} {rng.choice(SECOND)}",
                "pack_seeds": seeds,
                "price": round(float(1.6 + 0.9 * rng.random() + 0.002 * seeds), 2),
                "stated_germination": round(stated, 2),
                "hybrid": bool(rng.random() < 0.15),
                "packs_left": int(rng.integers(0, 4)) if rng.random() < 0.15 else None,
                "sale_ends": (today + timedelta(days=int(rng.integers(40, 200)))).isoformat(),
            })  # fmt: skip
    told = {
        "seller": name,
        "postage": round(float(2.5 + 2 * rng.random()), 2),
        "lead_days": int(rng.integers(5, 15)),
        "offers": offers,
    }
    return json.dumps(told, indent=1)

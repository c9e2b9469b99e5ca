"""Which kinds may go to the table as seed or as shoots. Unknown and dressed seed never may."""

from __future__ import annotations

# young leaves that households commonly eat raw and for which the crop table names no poison (guess)
SHOOTS = frozenset(
    {
        "pea", "radish", "rocket", "kale", "cabbage", "broccoli", "kohlrabi", "turnip",
        "chinese_cabbage", "mustard_greens", "sunflower", "wheat", "barley", "basil", "beet",
        "chard", "lettuce", "swede", "cauliflower",
    }
)  # fmt: skip
# seed that is food by itself, cooked or ground
FOOD = frozenset(
    {
        "bean_bush", "bean_pole", "runner_bean", "broad_bean", "pea", "soybean", "cowpea", "chickpea",
        "lentil", "maize", "wheat", "barley", "sunflower", "amaranth", "quinoa", "flax", "buckwheat",
        "dill", "coriander", "fennel", "mustard_greens", "squash_pepo",
    }
)  # fmt: skip


def fit_for_shoots(kind: str, known: bool, treated: bool = False, spoilt: bool = False) -> bool:
    """Whether shoots of a kind may be eaten; never of dressed, spoilt or unknown seed."""
    return known and not treated and not spoilt and kind in SHOOTS


def fit_for_food(kind: str, known: bool, treated: bool = False, spoilt: bool = False) -> bool:
    """Whether the seed itself is food; never dressed, spoilt or unknown seed."""
    return known and not treated and not spoilt and kind in FOOD

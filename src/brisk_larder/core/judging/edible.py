"""Which kinds may go to the table as seed or as shoots. Unknown and dressed seed never may."""

from __future__ import annotations

from collections.abc import Iterable

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


TABLE = frozenset({"food", "shoots"})
SPOILS = frozenset({"mould", "rodents", "treated"})  # events after which seed is no food any more


def refusal(
    use: str, kinds: Iterable[tuple[str, bool]], dressed: bool, spoilt: bool
) -> tuple[str, str] | None:
    """Why seed of some kinds (key, known) may not be meant for a use: a code and the kind; None: it may.

    dressed, spoilt, unknown or not_as_shoots. Only the table has such rules.
    """
    if use not in TABLE:
        return None
    if dressed:
        return "dressed", ""
    if spoilt:
        return "spoilt", ""
    for key, known in kinds:
        if not known:
            return "unknown", key
        if use == "shoots" and not fit_for_shoots(key, known):
            return "not_as_shoots", key
    return None


def uses_of(kind: str, known: bool, treated: bool) -> list[str]:
    """What a lot may be meant for."""
    uses = ["seed", "sale", "swap"]
    if fit_for_food(kind, known, treated):
        uses.append("food")
    if fit_for_shoots(kind, known, treated):
        uses.append("shoots")
    return uses


def cautions(
    kind: str, family: str, known: bool, hazard: bool, dressed: bool, hybrid: bool, source: str
) -> list[str]:
    """Cautions where they apply, as codes; they defer to the packet and to local authorities."""
    said = {
        "hazard": hazard,
        "dressed": dressed,
        "burns": kind == "hot_pepper",
        "bitter_cross": family == "Cucurbitaceae",
        "hybrid": hybrid,
        "passing_on": source in ("gift", "own") and known,
    }
    return [code for code, applies in said.items() if applies]

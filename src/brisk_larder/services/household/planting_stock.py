"""What is kept to be set: tubers, cloves, sets, plants; which form words mean, and its figures."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ...core.base.errors import InvalidValue
from ...core.hand.amounts import Measures
from ...core.seed.pieces import SEED, form_in, says_seed
from ...core.seed.plants import Emergence, Seed
from ...core.seed.worlds import COUNT
from ...reference import Piece
from ...reference.row_shapes import Range
from .kinds import UNKNOWN, Kind, figures, reference, set_crop
from .naming import is_name


class FormChoice(NamedTuple):
    """A form of planting stock as a choice in a list."""

    key: str
    name: str


def form_choices() -> list[FormChoice]:
    """Seed, then all that is set."""
    return [
        FormChoice("seed", "seed"),
        *(FormChoice(f.form, f.many) for f in reference().forms.values()),
    ]


@lru_cache(maxsize=1)
def _words() -> dict[str, tuple[str, ...]]:
    return {key: form.called for key, form in reference().forms.items()}


def form_of(kind: Kind, said: str, kind_word: str, quantity: str = "", name: str = "") -> str:
    """What is meant: seed (empty) or a form that is set; ``said``: chosen, else read from the words for its
    kind, its amount and its name. Raises InvalidValue for a form that there is not."""
    if said == "seed":
        return SEED
    if said:
        if said not in reference().forms:
            raise InvalidValue("form", said, ", ".join(["seed", *reference().forms]))
        return said
    if says_seed(kind_word, quantity):
        return SEED
    words = _words() if kind.key == UNKNOWN or not kind.known else _but("bulb")
    word = (
        "" if is_name(kind_word) else kind_word
    )  # a broad bean is no runner, an egg plant no plant
    found = form_in((word, quantity), words)
    if kind.piece is not None:  # a bulb of garlic is a head of cloves
        return found or kind.piece.form
    return found or form_in((name,), _but("bulb", "plant", "tuber", "clove"))


def _but(*forms: str) -> dict[str, tuple[str, ...]]:
    return {key: words for key, words in _words().items() if key not in forms}


def piece_of(kind: Kind, form: str) -> Piece | None:
    """The figures of a kind in a form; None: the table has none."""
    if kind.piece is not None and form == kind.piece.form:
        return kind.piece
    return reference().piece_rows.get((kind.key, form))


def as_set(kind: Kind, form: str) -> Kind:
    """A kind as it is set in a form: its days, spacing and weight; where the table has none, plants stand out
    when its seed could, or after the last frost."""
    if form == SEED or (kind.piece is not None and kind.piece.form == form):
        return kind
    piece = piece_of(kind, form)
    if piece is not None:
        return replace(kind, crop=set_crop(kind.crop, piece), piece=piece, own_days=())
    outdoors = kind.crop.sow_outdoors_weeks_rel_last_frost
    f = figures().pieces
    weeks = (
        Range(outdoors.low, outdoors.high + f.plants_later_weeks)
        if outdoors
        else Range(0.0, f.plants_after_frost_weeks)
    )
    crop = kind.crop.model_copy(update={
        "sow_indoors_weeks_before_last_frost": None, "sow_outdoors_weeks_rel_last_frost": weeks,
        "seeds_per_g": f.unsaid_per_kg / 1000,
    })  # fmt: skip
    return replace(kind, crop=crop, own_days=())


def keep_limits(kind: Kind, form: str) -> tuple[Range, Range]:
    """Temperatures (degC) at which it keeps, and for how many weeks after its harvest."""
    row = piece_of(kind, form) or reference().forms[form]
    return row.keep_temp_c, row.keeps_weeks


def unit_of(kind: Kind, form: str, n: float = 2) -> str:
    """What one of it is called: seed, seed tuber, clove, set."""
    if form == SEED:
        return "seed" if n == 1 else "seeds"
    piece, row = piece_of(kind, form), reference().forms[form]
    one = piece.piece if piece else row.one
    return one if n == 1 else f"{one}s"


@lru_cache(maxsize=1)
def piece_worth() -> Seed:
    """What one sound piece is worth when it is set: most stand, whatever its age in its days (a guess)."""
    f = figures().pieces
    return Seed(np.ones(COUNT), Emergence(f.stand_share, f.stand_weight))


def measured_as(measures: Measures, kind: Kind, form: str) -> Measures:
    """Measures of a kind in a form: its pieces are counted by its own words, heads as so many."""
    if form == SEED:
        return measures
    set_as = as_set(kind, form)
    piece = piece_of(kind, form)
    words = frozenset(w for w in _words()[form])
    bundles = (
        {}
        if piece is None
        else {w: (s.middle, (s.high - s.low) / 4) for w, s in piece.in_bundle.items()}
    )
    return replace(
        measures, seeds_per_g=set_as.crop.seeds_per_g, per_g_sd=figures().pieces.weighed_sd,
        piece=unit_of(kind, form, 1), counted=words - bundles.keys(), bundles=bundles,
    )  # fmt: skip

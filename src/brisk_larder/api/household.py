"""The household, its people, kinds, products, and the history of acts."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel

from ..services.household import home
from ..services.household.home import Home, KindChoice
from ..services.household.naming import Candidate
from ..services.household.words import WORDS
from ..services.papers import history, settings_page
from .allowed import KindSeason, Living, Overruled
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api", tags=["household"])


class LivingPlace(BaseModel):
    """A choice of the one tap for where they live."""

    key: str
    words: str


class SettleIn(BaseModel):
    """Where the household lives."""

    living: Living
    southern: bool = False


class HouseholdIn(BaseModel):
    """Settings to change; ``version`` guards against a stale page."""

    values: dict[str, Any]
    version: int | None = None


class PersonIn(BaseModel):
    """Somebody of the household."""

    name: str


class OwnKindIn(BaseModel):
    """A kind outside the table."""

    name: str
    stand_in: str | None = None
    season: KindSeason = "cool"


class OverruleIn(BaseModel):
    """A reference figure overruled."""

    crop: str
    field: Overruled
    value: float
    source: str


@router.get("/household")
def get_household(larder: LarderDep) -> Home:
    """The household as the app shows it."""
    return home.describe(larder)


@router.get("/words")
def get_words() -> dict[str, dict[str, str]]:
    """Words for the codes in other answers, by what they are codes of."""
    return WORDS


@router.get("/household/places")
def get_living_places() -> list[LivingPlace]:
    """Choices of the one tap for where they live."""
    return [LivingPlace(key=k, words=v[0]) for k, v in settings_page.LIVING_PLACES.items()]


@router.post("/household/settle")
def post_settle(larder: LarderDep, ref: ActDep, body: SettleIn) -> Answer:
    """One tap for where they live."""
    return answer(ref, settings_page.settle(larder, ref, body.living, body.southern))


@router.patch("/household")
def patch_household(larder: LarderDep, ref: ActDep, body: HouseholdIn) -> Answer:
    """Change settings."""
    return answer(ref, settings_page.change_household(larder, ref, body.values, body.version))


@router.post("/people", status_code=201)
def post_person(larder: LarderDep, ref: ActDep, body: PersonIn) -> Answer:
    """Add somebody."""
    return answer(ref, settings_page.add_person(larder, ref, body.name))


@router.get("/kinds")
def get_kinds(larder: LarderDep) -> list[KindChoice]:
    """All kinds, own ones first."""
    return home.kinds(larder)


@router.get("/kinds/meant")
def get_meant(larder: LarderDep, word: Annotated[str, Query(max_length=120)]) -> list[Candidate]:
    """The kinds that a word may mean."""
    return home.meant(larder, word)


@router.post("/kinds", status_code=201)
def post_kind(larder: LarderDep, ref: ActDep, body: OwnKindIn) -> Answer:
    """Add a kind outside the table."""
    return answer(
        ref, settings_page.add_own_kind(larder, ref, body.name, body.stand_in, body.season)
    )


@router.post("/crops/overrule")
def post_overrule(larder: LarderDep, ref: ActDep, body: OverruleIn) -> Answer:
    """Overrule a reference figure with the household's own."""
    return answer(
        ref,
        settings_page.overrule_crop(larder, ref, body.crop, body.field, body.value, body.source),
    )


@router.get("/acts")
def get_acts(
    larder: LarderDep, limit: Annotated[int, Query(ge=1, le=500)] = 40
) -> list[history.PastAct]:
    """The latest acts, newest first."""
    return history.recent(larder, limit)


@router.post("/acts/{act_id}/undo")
def post_undo(larder: LarderDep, ref: ActDep, act_id: str) -> Answer:
    """Take an act back; of an undo: do it again."""
    return answer(ref, history.undo(larder, ref, act_id))

"""Needs: foods, picks, pantry."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, UploadFile
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel

from ..services.acts import ask_before
from ..services.needs import (
    basket_page,
    buying,
    chain_acts,
    chains,
    kitchen,
    pantry_page,
    products,
    pull,
    targets,
)
from ..services.needs.basket_page import BasketRoom
from ..services.needs.buying import OfferSaid
from ..services.needs.chain_lines import NeedsRoom
from ..services.needs.kitchen import Harvests
from ..services.needs.pantry_page import PantryRoom
from ..services.needs.pull import PullList, Star
from ..services.needs.targets import (
    GivenUp,
    LastYear,
    SharedOver,
    TakenOver,
    VarietyChoice,
)
from .allowed import EatenBy, Link, Pantry, Purpose
from .deps import ActDep, Answer, LarderDep, answer

router = APIRouter(prefix="/api/needs", tags=["needs"])


class TargetIn(BaseModel):
    """A food to want, or to change."""

    product: str
    per_week: float
    weeks: float
    name: str = ""
    crop: str | None = None
    unit: str = ""
    gifts: float = 0.0
    reserve_share: float = 0.0
    every_years: int = 1
    sure: float = 0.5
    jar_litres: float = 1.0
    eaten_by: EatenBy = "table"
    types: str | None = None
    also: list[str] | None = None
    shares: list[SharedOver] | None = None
    target_id: int | None = None
    version: int | None = None
    anyway: bool = False


class OverrideIn(BaseModel):
    """The keeper's own number for a link; null: back to the book."""

    link: Link
    value: float | None
    note: str = ""


class PantryIn(BaseModel):
    """What stands on the shelf."""

    product: str
    kind: Pantry = "counted"
    units: float


class TakeOverIn(BaseModel):
    """Foods of last year to take over."""

    foods: list[TakenOver]


class GiveUpIn(BaseModel):
    """Shares of foods and picks to give up."""

    shares: list[GivenUp]


class HarvestIn(BaseModel):
    """What so many plants of a kind gave in a year."""

    crop: str
    year: int
    plants: int
    mass_kg: float
    note: str = ""


class JarsIn(BaseModel):
    """Jars of a size, and unused lids for them."""

    litres: float
    owned: int
    lids: int


class PickIn(BaseModel):
    """Grow this lot this year."""

    lot_id: int
    plants: int
    purpose: Purpose = "joy"
    note: str = ""
    anyway: bool = False


@router.get("")
def get_needs(larder: LarderDep) -> NeedsRoom:
    """All chains, shortfalls first."""
    return chains.needs_room(larder)


@router.get("/pull")
def get_pull(larder: LarderDep) -> PullList:
    """What is fetched for the year's sowings, by container in walking order."""
    return pull.pull_list(larder)


@router.get("/pull.pdf", response_class=Response)
def get_pull_pdf(larder: LarderDep, page: str = "") -> Response:
    """The pull list on paper."""
    return Response(pull.pull_pdf(larder, page), media_type="application/pdf")


@router.get("/stars")
def get_stars(larder: LarderDep) -> list[Star]:
    """All packets one could grow this year, starred ones first."""
    return pull.stars(larder)


class BudgetIn(BaseModel):
    """Money for seed in a year; null: no limit."""

    money: float | None


class WishIn(BaseModel):
    """Seed to wish for, or a wish to change."""

    kind: str
    variety: str = ""
    plants: int = 20
    priority: int = 3
    season: str = ""
    place: str = ""
    note: str = ""
    wish_id: int | None = None
    version: int | None = None


class OrderIn(BaseModel):
    """Packs ordered, by offer."""

    packs: dict[int, int]


class CameIn(BaseModel):
    """Orders that came, and where their packets go."""

    order_ids: list[int]
    node_id: int | None = None


@router.get("/basket")
def get_basket(larder: LarderDep) -> BasketRoom:
    """What is short or wished for, what is offered, and the cheapest set that closes it."""
    return basket_page.basket_room(larder)


@router.get("/basket/order.txt", response_class=PlainTextResponse)
def get_order_words(larder: LarderDep) -> str:
    """The proposed order in words, seller by seller."""
    return basket_page.order_words(basket_page.basket_room(larder))


@router.post("/basket/offers", status_code=201)
def post_offer(larder: LarderDep, ref: ActDep, body: OfferSaid) -> Answer:
    """Type in a packet that is offered."""
    return answer(ref, buying.say_offer(larder, ref, body))


@router.delete("/basket/offers/{offer_id}")
def delete_offer(larder: LarderDep, ref: ActDep, offer_id: int) -> Answer:
    """Take an offer off."""
    return answer(ref, buying.drop_offer(larder, ref, offer_id))


@router.post("/basket/list")
def post_list(larder: LarderDep, ref: ActDep, file: Annotated[UploadFile, File()]) -> Answer:
    """Take in a seller's list (JSON)."""
    return answer(ref, buying.bring_list(larder, ref, file.file.read()))


@router.post("/basket/wishes", status_code=201)
def post_wish(larder: LarderDep, ref: ActDep, body: WishIn) -> Answer:
    """Wish for seed."""
    return answer(ref, buying.wish(larder, ref, **body.model_dump()))


@router.delete("/basket/wishes/{wish_id}")
def delete_wish(larder: LarderDep, ref: ActDep, wish_id: int) -> Answer:
    """Take a wish off."""
    return answer(ref, buying.drop_wish(larder, ref, wish_id))


@router.put("/basket/budget")
def put_budget(larder: LarderDep, ref: ActDep, body: BudgetIn) -> Answer:
    """What may be spent on seed in a year."""
    return answer(ref, buying.set_budget(larder, ref, body.money))


@router.post("/basket/orders", status_code=201)
def post_order(larder: LarderDep, ref: ActDep, body: OrderIn) -> Answer:
    """Note what was ordered."""
    return answer(ref, buying.order(larder, ref, body.packs))


@router.post("/basket/orders/came", status_code=201)
def post_came(larder: LarderDep, ref: ActDep, body: CameIn) -> Answer:
    """What was ordered has come: it becomes packets."""
    return answer(ref, buying.came(larder, ref, body.order_ids, body.node_id))


@router.post("/basket/orders/{order_id}/never")
def post_never(larder: LarderDep, ref: ActDep, order_id: int) -> Answer:
    """An order never came."""
    return answer(ref, buying.never_came(larder, ref, order_id))


@router.get("/products")
def get_products() -> list[products.ProductChoice]:
    """Products of the book."""
    return products.products()


@router.post("/foods")
def post_food(larder: LarderDep, ref: ActDep, body: TargetIn) -> Answer:
    """Add a food, or change one."""
    said = dict(body)
    anyway = said.pop("anyway")
    if body.target_id is None:
        again = targets.wanted_already(larder, body.product, body.crop, body.eaten_by)
        ask_before.heed(again, anyway)
    return answer(ref, targets.set_target(larder, ref, **said))


@router.get("/foods/last-year")
def get_last_year(larder: LarderDep) -> LastYear:
    """Last year's list beside what became of it."""
    return targets.last_year(larder)


@router.post("/foods/take-over", status_code=201)
def post_take_over(larder: LarderDep, ref: ActDep, body: TakeOverIn) -> Answer:
    """Take foods of last year over."""
    return answer(ref, targets.take_over(larder, ref, body.foods))


@router.post("/foods/less")
def post_less(larder: LarderDep, ref: ActDep, body: GiveUpIn) -> Answer:
    """Want less of some foods and picks."""
    return answer(ref, targets.give_up(larder, ref, body.shares))


@router.get("/varieties")
def get_varieties(larder: LarderDep, crop: str = "") -> list[VarietyChoice]:
    """Varieties of a kind in hand, that a food can be split over."""
    return targets.varieties_of(larder, crop)


@router.get("/harvests")
def get_harvests(larder: LarderDep, crop: str = "") -> Harvests:
    """Own harvests of a kind, and what a plant gives by them."""
    return kitchen.harvests(larder, crop)


@router.post("/harvests", status_code=201)
def post_harvest(larder: LarderDep, ref: ActDep, body: HarvestIn) -> Answer:
    """Note a harvest."""
    done = kitchen.note_harvest(
        larder, ref, body.crop, body.year, body.plants, body.mass_kg, body.note
    )
    return answer(ref, done)


@router.delete("/harvests/{harvest_id}")
def delete_harvest(larder: LarderDep, ref: ActDep, harvest_id: int) -> Answer:
    """Take a harvest off."""
    return answer(ref, kitchen.drop_harvest(larder, ref, harvest_id))


@router.put("/jars")
def put_jars(larder: LarderDep, ref: ActDep, body: JarsIn) -> Answer:
    """Say how many jars of a size there are."""
    return answer(ref, kitchen.set_jars(larder, ref, body.litres, body.owned, body.lids))


@router.delete("/foods/{target_id}")
def delete_food(larder: LarderDep, ref: ActDep, target_id: int) -> Answer:
    """Take a food off the list."""
    return answer(ref, chain_acts.remove_target(larder, ref, target_id))


@router.put("/foods/{target_id}/links")
def put_link(larder: LarderDep, ref: ActDep, target_id: int, body: OverrideIn) -> Answer:
    """Overrule a link of a chain."""
    done = chain_acts.override_link(larder, ref, target_id, body.link, body.value, body.note)
    return answer(ref, done)


@router.get("/pantry")
def get_pantry(larder: LarderDep) -> PantryRoom:
    """What stands on the shelf, and when it ends."""
    return pantry_page.pantry_room(larder)


@router.post("/pantry", status_code=201)
def post_pantry(larder: LarderDep, ref: ActDep, body: PantryIn) -> Answer:
    """Count the shelf, or book what was put up, opened, given or spoiled."""
    return answer(ref, chain_acts.book_pantry(larder, ref, body.product, body.kind, body.units))


@router.post("/picks", status_code=201)
def post_pick(larder: LarderDep, ref: ActDep, body: PickIn) -> Answer:
    """Mark a lot "grow this year"."""
    ask_before.heed(ask_before.picking(larder, [body.lot_id]), body.anyway)
    done = chain_acts.set_pick(larder, ref, body.lot_id, body.plants, body.purpose, body.note)
    return answer(ref, done)


@router.delete("/picks/{pick_id}")
def delete_pick(larder: LarderDep, ref: ActDep, pick_id: int) -> Answer:
    """Take a pick back."""
    return answer(ref, chain_acts.remove_pick(larder, ref, pick_id))

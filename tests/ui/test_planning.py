"""The planning evening: from more beans on the table to what is ordered, and to the years in which lines are
grown anew."""

import re
from datetime import date

from playwright.sync_api import expect

from brisk_larder.core.base.units import day_start_s
from brisk_larder.services.needs.chains import needs_room
from brisk_larder.services.today.ribbon import ribbon
from brisk_larder.standins.weather import forecast_json
from tests.ui.hands import act, choose, typed


def number(text):
    return float(re.sub(r"[^\d.]", "", text))


def ordered_by(mill, food):
    """Weeks of the ribbon in which a food is to be ordered."""
    return [m.week for m in ribbon(mill.larder).marks if m.kind == "order" and food in m.words]


def test_an_evening_from_jars_a_week_to_the_order_and_the_years(mill, page):
    page.goto(f"{mill.url}/needs")
    row = page.locator('[data-food="Green beans"]')
    plants = row.get_by_label(re.compile("^plants of"))
    before = number(plants.inner_text())
    expect(row).to_contain_text("covered")
    assert not ordered_by(mill, "Green beans")
    row.get_by_role("button", name="more for Green beans").click()
    page.get_by_role("menuitem", name="change").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("a week").fill("9")
    dialog.get_by_role("button", name="Save").click()
    # the chain moves, and the packet falls short
    expect(row).to_contain_text("seeds short")
    assert number(plants.inner_text()) > 3 * before
    assert ordered_by(mill, "Green beans")  # its day to order stands on the ribbon
    # an offer closes it, with its day to order
    page.get_by_role("link", name="The basket").click()
    gap = page.get_by_role("row", name=re.compile("Green beans"))
    expect(gap).to_be_visible()
    page.get_by_role("button", name="Type an offer").click()
    offer = page.get_by_role("dialog")
    typed(
        offer,
        {
            "seller": "Fellside seed barn",
            "kind": "climbing bean",
            "variety": "Ferrywoman",
            "seeds in the packet": "4000",
            "price": "9",
            "stated germination": "90",
        },
    )
    offer.get_by_role("button", name="Put it down").click()
    expect(gap).to_contain_text("of Ferrywoman from Fellside seed barn")
    expect(gap).to_contain_text(re.compile(r"\d+ \w+ 2027"))
    page.get_by_role("button", name="Ordered: note it").click()
    expect(page.get_by_role("heading", name="On its way")).to_be_visible()
    # it comes, and is a packet of its own
    came = page.locator(".orders li", has_text="Ferrywoman")
    came.get_by_role("button", name="It came").click()
    expect(page.locator(".orders li", has_text="Ferrywoman").get_by_role("link")).to_be_visible()
    page.get_by_role("link", name="← Needs").click()
    expect(row).to_contain_text("covered")


def test_years_are_settled_and_what_crosses_is_refused_with_the_reason(mill, page):
    page.goto(f"{mill.url}/growing")

    def cell(line, year):
        return page.locator(f'[data-line="{line}"] [data-year="{year}"]')

    # a line past its last safe year is grown anew
    cell("Quern", 2027).click()
    expect(page.locator(".why")).to_contain_text("sow all of it")
    page.get_by_role("button", name="Settle on it").click()
    expect(cell("Quern", 2027)).to_have_text("●")
    # cabbage is put where it flowers in 2033
    cell("Stone Sentry", 2032).click()
    page.get_by_role("button", name="Grow it in 2032").click()
    expect(cell("Stone Sentry", 2032)).to_have_text("●")
    expect(cell("Stone Sentry", 2033)).to_have_text("✿")
    # kale dragged beside it is refused, and says why
    cell("Slate Curl", 2030).click()
    page.get_by_role("button", name="Grow it in 2030").click()
    expect(cell("Slate Curl", 2030)).to_have_text("●")
    cell("Slate Curl", 2030).drag_to(cell("Slate Curl", 2032))
    refused = page.get_by_role("dialog", name=re.compile("Not in 2032"))
    expect(refused).to_contain_text("would flower in 2033 beside Stone Sentry cabbage")
    refused.get_by_role("button", name="Leave it").click()
    expect(cell("Slate Curl", 2030)).to_have_text("●")
    # a year without a partner is fine; the partner's year only when they are kept apart
    cell("Slate Curl", 2030).drag_to(cell("Slate Curl", 2029))
    expect(cell("Slate Curl", 2029)).to_have_text("●")
    cell("Slate Curl", 2029).drag_to(cell("Slate Curl", 2032))
    page.get_by_role("button", name="Keep them apart").click()
    expect(cell("Slate Curl", 2032)).to_have_text("●")
    expect(cell("Slate Curl", 2032)).to_have_class(re.compile("apart"))
    expect(page.locator(".why")).to_contain_text("bag it and use a brush")
    page.get_by_role("button", name=re.compile("Take back")).click()
    expect(cell("Slate Curl", 2029)).to_have_text("●")


def test_stars_and_the_bundle_list_on_a_phone(mill, phone):
    phone.goto(f"{mill.url}/needs/stars")
    stars = phone.locator('[aria-pressed="false"]')
    expect(phone.get_by_text("packets starred")).to_be_visible()
    begun = phone.locator('[aria-pressed="true"]').count()
    names = [stars.nth(i).get_attribute("aria-label") for i in (0, 3, 5)]
    for name in names:
        phone.get_by_label(name, exact=True).click()
        asked = phone.get_by_role("button", name="Do it all the same")
        starred = phone.locator(f'[aria-label="{name}"][aria-pressed="true"]')
        expect(starred.or_(asked).first).to_be_visible()
        if asked.count():
            asked.click()
        expect(starred).to_be_visible()
    assert phone.locator('[aria-pressed="true"]').count() == begun + 3
    phone.get_by_role("link", name="Fetch the seed").click()
    first = phone.locator(".stop li").first
    expect(first).to_be_visible()
    first.get_by_role("checkbox").click()
    expect(phone.get_by_text(re.compile(r"1 of \d+ packets fetched"))).to_be_visible()
    act(phone, "All put back")
    expect(phone.get_by_text(re.compile(r"0 of \d+ packets fetched"))).to_be_visible()


def test_the_pantry_is_opened_and_says_when_it_ends(mill, page):
    page.goto(f"{mill.url}/needs/pantry")
    row = page.get_by_role("row", name=re.compile("Tomato sauce"))
    expect(row).to_contain_text("at this pace it ends in")
    expect(row).to_contain_text("31 jars")
    row.get_by_role("button", name="Opened one").click()
    expect(row).to_contain_text("30 jars")
    row.get_by_role("button", name="more for Tomato sauce").click()
    page.get_by_role("menuitem", name="spoiled").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("thrown away untasted")
    dialog.get_by_role("button", name="Write it down").click()
    expect(row).to_contain_text("29 jars")
    # jars are counted against what is to be filled
    page.get_by_role("button", name="Count them: jars of 1 litre").click()
    jars = page.get_by_role("dialog")
    jars.get_by_label("jars of it, full and empty").fill("400")
    jars.get_by_label("unused lids").fill("300")
    jars.get_by_role("button", name="Write it down").click()
    expect(page.get_by_role("row", name=re.compile("^1 litre"))).to_contain_text(
        "enough for the plan"
    )


def test_last_years_foods_come_back_and_what_does_not_fit_is_given_up_in_part(mill, page):
    page.goto(f"{mill.url}/needs")
    page.get_by_role("button", name="Take over from last year").click()
    last = page.get_by_role("dialog")
    expect(last).to_contain_text("as last year")
    last.get_by_label("Courgettes a week").fill("0.5")
    last.get_by_role("button", name="Take 2 foods over").click()
    row = page.locator('[data-food="Courgettes"]')
    expect(row).to_contain_text("0.5 a week for 16")
    expect(page.locator('[data-food="Potatoes"]')).to_contain_text("seed tubers")
    # two kinds of lettuce share the salad, and plants that do in nine years of ten
    page.get_by_role("button", name="more for Salad").click()
    page.get_by_role("menuitem", name="change").click()
    salad = page.get_by_role("dialog")
    salad.get_by_text("Gifts, reserve, varieties").click()
    before = next(x for x in needs_room(mill.larder).lines if x.name == "Salad").plants
    choose(salad, "plants enough in", "9 years of ten")
    salad.get_by_role("button", name="Save").click()
    plants = page.locator('[data-food="Salad"]').get_by_label(re.compile("^plants of"))
    expect(salad).to_have_count(0)
    assert next(x for x in needs_room(mill.larder).lines if x.name == "Salad").plants > before
    # less bed than the year wants: a part of some foods is given up, and then it fits
    card = page.get_by_label("does it fit")
    card.get_by_role("button", name="What we have room for").click()
    have = page.get_by_role("dialog")
    have.get_by_label("bed for food").fill("120")
    have.get_by_label("cells to sow in indoors").fill("")
    have.get_by_role("button", name="Keep it").click()
    expect(card).to_contain_text("of 120 m²")
    expect(card).to_contain_text("It does not fit")
    expect(plants).to_be_visible()
    before = len(needs_room(mill.larder).room.give_up)
    less = card.get_by_role("button", name="All of these")
    (less if before > 1 else card.get_by_role("button", name=re.compile("Do it: less "))).click()
    expect(card).to_contain_text("It fits")


def test_a_forecast_moves_sowings_and_what_is_sown_is_not_asked_for_again(mill, page, tmp_path):
    mill.clock.at_s = day_start_s(date(2027, 4, 24), "Europe/London") + 9 * 3600
    told = tmp_path / "nights.json"
    told.write_text(forecast_json(date(2027, 4, 24), date(2027, 5, 20), 3))
    page.goto(f"{mill.url}/growing/calendar")
    page.get_by_label("change: when carrot is sown").click()
    days = page.get_by_role("dialog")
    days.get_by_label("why").fill("cold clay till then")
    days.get_by_role("button", name="Sow it then").click()
    expect(page.locator('[data-kind="carrot"]')).to_contain_text("our own days")
    page.locator('input[type="file"]').set_input_files(told)
    expect(page.get_by_label("nights that are forecast")).to_be_visible()
    page.goto(mill.url)
    sow = page.locator(".job", has_text=re.compile("^Sow"))
    expect(sow.first).to_be_visible()
    moved = sow.filter(has_text="Not before")
    expect(moved.first).to_contain_text("are forecast for")
    held_up = moved.count()
    moved.first.get_by_role("button", name=re.compile("All sown|Sown")).click()
    expect(moved).to_have_count(held_up - 1)
    sown = [x for x in needs_room(mill.larder).lines if x.sown_plants]
    assert sown
    page.goto(f"{mill.url}/needs")
    expect(
        page.locator(f'[data-food="{sown[0].name}"]').or_(page.get_by_text(sown[0].name)).first
    ).to_be_visible()
    assert any(x.says == "sown" for x in sown)

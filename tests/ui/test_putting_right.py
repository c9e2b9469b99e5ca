"""One verdict in every room, anything put right on any day, cautions at the act, acts done once."""

import re
from datetime import date

from playwright.sync_api import expect
from sqlmodel import select

from brisk_larder.core.base.units import local_day
from brisk_larder.data.acts import ActRef
from brisk_larder.data.tables import Lot, Sowing, StockEntry
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines
from brisk_larder.services.needs import chain_acts as needs_acts
from brisk_larder.services.storage import containers
from brisk_larder.services.trials import past
from tests.ui.hands import act, choose


def lot(mill, variety):
    return next(x for x in lines.lot_lines(mill.larder) if x.variety == variety)


def rows(mill, model):
    with mill.larder.store.read() as session:
        return session.exec(select(model)).all()


def test_rooms_say_the_same_of_dead_maize_unsure_calendula_and_uncounted_parsnip(mill, page):
    maize, unsure = lot(mill, "Gossamer"), lot(mill, "Noon Gold")
    past.past_test(mill.larder, ActRef(), maize.lot_id, 0, 20, took_seeds=False)
    page.goto(f"{mill.url}/stock/{maize.lot_id}")
    expect(page.locator("[data-next]")).to_contain_text("dead: find seed of this line again")
    expect(page.locator("[data-next]").get_by_role("button", name="Let it go")).to_be_visible()
    expect(page.get_by_role("button", name="Sow", exact=True)).to_have_count(0)
    expect(page.get_by_text("when it falls below")).to_have_count(0)
    expect(page.get_by_text(re.compile(r"at most \d+ %, nineteen times in twenty"))).to_be_visible()
    page.goto(f"{mill.url}/growing")
    expect(page.locator(".line", has_text="Gossamer")).to_contain_text(
        "no living seed left: find it again"
    )
    page.goto(f"{mill.url}/tests")
    expect(page.get_by_text("Noon Gold").first).to_be_visible()
    page.goto(f"{mill.url}/stock/{unsure.lot_id}")
    expect(page.locator("[data-next]")).to_contain_text(re.compile(r"test \d+ seeds"))
    page.locator("[data-next]").get_by_role("button", name="Start a test").click()
    expect(page.get_by_role("dialog")).to_contain_text("Test C11 Noon Gold")
    ids = add_seeds(
        mill.larder,
        ActRef(),
        [NewSeeds(kind="salsify", variety="Pale Quill", year=2026, source="own")],
    ).lot_ids
    needs_acts.set_pick(mill.larder, ActRef(), ids[0], 12)
    page.goto(f"{mill.url}/needs")
    need = page.locator("tr", has_text="Pale Quill")
    expect(need).to_contain_text("not counted")
    page.goto(f"{mill.url}/stock/{ids[0]}")
    expect(page.locator("[data-next]")).to_contain_text("count it first")
    page.locator("[data-next]").get_by_role("button", name="Count seeds").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("how much").fill("1,500")
    dialog.get_by_role("button", name="Save").click()
    expect(page.locator("[data-next]")).not_to_contain_text("count it first")
    assert lot(mill, "Pale Quill").seeds == 1500


def test_a_wrong_kind_is_mended_in_one_form_and_taken_back(mill, page):
    onion = lot(mill, "Longkeep")
    page.goto(f"{mill.url}/stock/{onion.lot_id}")
    act(page, "Put right")
    form = page.get_by_role("dialog")
    expect(form.get_by_label("kind", exact=True)).to_have_value("onion")
    form.get_by_label("kind", exact=True).fill("scallions")
    form.get_by_label("harvested or packed").fill("2022-2024")
    form.get_by_label("from whom").fill("Tam")
    form.get_by_role("button", name="Save", exact=True).click()
    expect(form).to_have_count(0)
    expect(page.get_by_role("heading", level=1)).to_contain_text("Longkeep")
    expect(page.locator(".lead")).to_contain_text("bunching onion")
    expect(page.locator(".lead")).to_contain_text("mixed: 2022, 2023, 2024")
    page.keyboard.press("u")
    expect(page.locator(".lead")).not_to_contain_text("bunching onion")
    act(page, "Put right")
    form.get_by_label("kind", exact=True).fill("moonwort")
    form.get_by_role("button", name="Save", exact=True).click()
    expect(form.get_by_role("alert")).to_be_visible()
    form.get_by_label("kind", exact=True).fill("onion")
    form.get_by_label("harvested or packed").fill("31/02/2024")
    form.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("31/02/2024").last).to_be_visible()


def test_yesterdays_sowing_and_a_test_that_is_over(mill, page):
    peas = lot(mill, "Grey Heron")
    page.goto(f"{mill.url}/stock/{peas.lot_id}")
    act(page, "Sow")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("seeds").fill("15")
    dialog.get_by_label("sown on").fill("yesterday")
    dialog.get_by_role("button", name="Sown").click()
    expect(dialog).to_have_count(0)
    sown = max(rows(mill, Sowing), key=lambda s: s.id)
    assert local_day(sown.at_s, "Europe/London") == date(2026, 11, 23)
    act(page, "Start a test")
    dialog.get_by_text("it is over").click()
    dialog.get_by_label("came up").fill("9")
    dialog.get_by_label("of", exact=True).fill("10")
    dialog.get_by_label("counted last").fill("3 November")
    dialog.get_by_role("button", name="Keep it").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("9 of 10 alive")).to_be_visible()
    act(page, "Start a test")
    dialog.get_by_text("written down before").click()
    dialog.get_by_label("germination").fill("80")
    dialog.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("80 % was written down, of how many nobody wrote")).to_be_visible()


def test_names_as_people_type_them_and_one_question_for_a_stranger(mill, page):
    page.goto(f"{mill.url}/stock/add")
    kind, said = page.get_by_label("kind", exact=True), page.locator(".understood")
    for typed, means in {
        "sweet corn": "maize", "snow pea": "pea", "cherry tomato": "tomato", "scallions": "bunching onion",
        "collards": "kale", "bok choy": "Chinese cabbage", "cantaloupe": "melon", "jalapeños": "hot pepper",
        "Swiss chard": "chard", "courgettes": "summer squash", "rutabaga": "swede", "tom": "tomato",
    }.items():  # fmt: skip
        kind.fill(typed)
        expect(said.locator("strong")).to_have_text(means)
    before = len(rows(mill, Lot))
    kind.fill("snapdragon")
    expect(page.get_by_role("group", name="What kind is it?")).to_be_visible()
    page.get_by_label("how much").fill("a pinch")
    page.get_by_label("how much").press("Enter")  # never an unknown kind by Enter alone
    question = page.get_by_role("group", name="What kind is it?")
    expect(question.get_by_role("button").first).to_be_focused()
    assert len(rows(mill, Lot)) == before
    question.get_by_role("button", name="snapdragon, reckoned like poppy").click()
    expect(page.get_by_role("list", name="Kept so far")).to_contain_text("snapdragon")
    assert lot(mill, "unnamed").kind_name == "snapdragon"


def test_a_damp_packet_into_the_freezer_is_asked_about_and_then_done(mill, page):
    freezer = containers.add_node(
        mill.larder, ActRef(), containers.NewNode("Chest freezer", place_kind="freezer_deep")
    ).node_id
    maize = lot(mill, "Flint Hearth")
    page.goto(f"{mill.url}/stock/{maize.lot_id}")
    act(page, "Move")
    form = page.get_by_role("dialog").filter(has_text="since when")
    assert freezer
    choose(form, "to", "Chest freezer", exact=True)
    form.get_by_role("button", name="Move it").click()
    asked = page.get_by_role("dialog").filter(has_text="Before you do it")
    expect(asked).to_contain_text("before freezing")
    asked.get_by_role("button", name="Leave it").click()
    assert lot(mill, "Flint Hearth").node_id == maize.node_id
    form.get_by_role("button", name="Move it").click()
    asked.get_by_role("button", name="Do it all the same").click()
    expect(form).to_have_count(0)
    expect(page.locator(".lead")).to_contain_text("Chest freezer")


def test_a_double_click_and_enter_enter_do_it_once(mill, page):
    kale = lot(mill, "Slate Curl")
    page.goto(f"{mill.url}/stock/{kale.lot_id}")
    act(page, "Count seeds")
    dialog = page.get_by_role("dialog")
    choose(dialog, "what", "given away")
    dialog.get_by_label("how much").fill("20")
    dialog.get_by_role("button", name="Save").dblclick()
    expect(dialog).to_have_count(0)
    given = [
        e
        for e in rows(mill, StockEntry)
        if e.kind == "given" and e.lot_id == kale.lot_id and e.as_said == "20"
    ]
    assert len(given) == 1
    before = len(rows(mill, Lot))
    page.goto(f"{mill.url}/stock/add")
    page.get_by_label("kind", exact=True).fill("kale")
    page.get_by_label("how much").fill("40")
    page.get_by_label("how much").press("Enter")
    page.get_by_label("how much").press("Enter")
    expect(page.get_by_role("list", name="Kept so far").locator("li")).to_have_count(1)
    page.wait_for_timeout(800)
    assert len(rows(mill, Lot)) == before + 1
    page.goto(f"{mill.url}/stock/{kale.lot_id}")
    act(page, "Start a test")
    page.get_by_role("dialog").get_by_label("seeds").fill("0")
    expect(page.get_by_role("dialog").get_by_role("button", name="Sown: start")).to_be_disabled()


def test_numbers_are_the_same_on_all_pages_and_carry_their_range(mill, page):
    number = re.compile(r"(\d+)\s%")

    def shown(text):
        return number.search(text).group(1)

    page.goto(f"{mill.url}/storage")
    tile = page.get_by_role("button", name=re.compile("Potting tin"))
    dry = shown(re.search(r"seed \d+\s%", tile.inner_text()).group())
    tile.dblclick()
    expect(page.get_by_text(re.compile(rf"seed at {dry}\s% once warm"))).to_be_visible()
    expect(page.get_by_text(re.compile(rf"{dry}\s% now"))).to_be_visible()
    kale = lot(mill, "Slate Curl")
    page.goto(f"{mill.url}/stock/{kale.lot_id}")
    expect(page.get_by_text(re.compile(r"20\d\d, likely 20\d\d(–\d\d| or later)"))).to_be_visible()
    # what each school costs: who believes the forecast fails less often than who goes by age
    page.goto(f"{mill.url}/stock/triage")
    page.locator(".schools summary").click()
    bill = {
        row.locator("td").first.inner_text(): row.locator("td[data-label*=fail]").inner_text()
        for row in page.locator(".schools tr.ant-table-row").all()
    }
    assert float(bill["the forecast"]) < float(bill["the age rule"])
    expect(page.locator(".schools")).to_contain_text("differ only in what they believe")

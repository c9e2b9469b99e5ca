"""Storage in the browser: the round on a phone, a file with its questions, a container's page, what if."""

import re
import time

from playwright.sync_api import expect

from brisk_larder.services.forecast import lines
from brisk_larder.services.storage import rounds, shelves
from tests.ui.hands import act, choose


def node(mill, name):
    return next(
        b.node_id
        for s in shelves.shelves(mill.larder)
        for b in [s.place, *s.boxes]
        if b.name == name
    )


def test_the_round_is_walked_on_a_phone_and_an_odd_value_is_asked_about(mill, phone):
    phone.goto(f"{mill.url}/storage/round")
    first = phone.get_by_label("Tin 1, temperature, °C", exact=True)
    expect(first).to_be_visible()
    first.fill("9,5")
    first.press("Enter")
    expect(phone.get_by_label("Tin 1, humidity, per cent", exact=True)).to_be_focused()
    phone.keyboard.type("58")
    phone.keyboard.press("Enter")
    phone.get_by_label("Tin 2, humidity, per cent", exact=True).fill("91")
    save = phone.get_by_role("button", name="Save 2 dials")
    expect(phone.get_by_text("Odd:")).to_contain_text("would be usual")
    expect(save).to_be_disabled()
    expect(phone.get_by_role("alert")).to_contain_text("Tin 2")
    phone.get_by_label("it is so").check()
    save.click()
    expect(phone.get_by_text("A round of 2 dials")).to_be_visible()
    stops = {s.name: s for s in rounds.round_list(mill.larder)}
    assert (stops["Tin 1"].last_c, stops["Tin 1"].last_erh) == (9.5, 0.58)
    assert stops["Tin 2"].last_erh == 0.91
    expect(first).to_have_value("")
    sizes = phone.locator(".fields input").evaluate_all("els => els.map(e => e.offsetHeight)")
    assert min(sizes) >= 44
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_container_is_opened_taken_out_and_put_back(mill, page):
    tin = node(mill, "Tin 1")
    page.goto(f"{mill.url}/storage/{tin}")
    expect(page.get_by_role("heading", name="Tin 1")).to_be_visible()
    expect(page.get_by_label(re.compile("Climate of Tin 1"))).to_be_visible()
    page.get_by_text("As a table").click()
    expect(page.get_by_text("between readings").first).to_be_visible()
    page.get_by_role("button", name="just opened").click()
    expect(page.locator(".foot .note", has_text="Tin 1: opened")).to_be_visible()
    page.get_by_role("button", name="took it out").click()
    expect(page.get_by_text("Out of store since")).to_be_visible()
    line = next(x for x in lines.lot_lines(mill.larder) if x.variety == "Winter Pillar")
    assert "Tin 1" in line.place
    assert "Stone larder" not in line.place
    mill.clock.at_s += 5 * 3600
    page.goto(f"{mill.url}/today")
    expect(page.get_by_text(re.compile("Tin 1: still out of store"))).to_be_visible()
    page.goto(f"{mill.url}/storage/{tin}")
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_text("Out of store since")).to_be_hidden()
    act(page, "open it now?")
    expect(page.get_by_text(re.compile("Open it at once|Leave it shut"))).to_be_visible()
    act(page, "change it")
    page.get_by_label("room for packets").fill("26")
    page.get_by_label("held before").fill("diesel fuel")
    page.get_by_role("button", name="Save", exact=True).click()
    asked = page.get_by_role("dialog").filter(has_text="Before you do it")
    expect(asked).to_contain_text("it held fuel")
    asked.get_by_role("button", name="Leave it").click()
    page.get_by_label("held before").fill("biscuits")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("13 packets of 26")).to_be_visible()
    page.get_by_role("button", name="10 years").click()
    expect(page.get_by_role("button", name="10 years")).to_have_attribute("aria-pressed", "true")


def test_a_file_is_asked_about_its_bad_rows_left_out_and_taken_back(mill, page, tmp_path):
    log = tmp_path / "log.csv"
    rows = "\n".join(
        f"2026-11-0{d} {h:02d}:00,{48 + h % 5},5{h % 9}" for d in range(1, 9) for h in range(24)
    )
    log.write_text(f"time,temp,rh\n{rows}\n2026-11-09 10:00,warm,50\n")
    page.goto(f"{mill.url}/storage/{node(mill, 'Hat box')}")
    page.locator('input[type="file"]').set_input_files(log)
    dialog = page.get_by_role("dialog")
    choose(dialog, "the file does not say the unit", "°F")
    dialog.get_by_label("the time zone of its clock").fill("UTC")
    dialog.get_by_role("button", name="Take it in").click()
    expect(dialog.get_by_role("alert")).to_contain_text("line 194")
    dialog.get_by_label("take in the good rows").check()
    dialog.get_by_role("button", name="Take in the good rows").click()
    expect(dialog.get_by_role("status")).to_contain_text("192 readings taken in")
    expect(dialog.get_by_text("1 row left out")).to_be_visible()
    dialog.get_by_role("button", name="Good").click()
    box = next(b for s in shelves.shelves(mill.larder) for b in s.boxes if b.name == "Hat box")
    assert 7 < box.dial_temperature_c < 13
    page.get_by_role("button", name=re.compile("Take back")).click()
    expect(page.get_by_text("Never read")).to_be_visible()


def test_what_if_is_compared_and_the_moves_stand_in_today(mill, page):
    page.goto(f"{mill.url}/storage/{node(mill, 'Crate')}")
    card = page.locator(".card", has_text="What if it stood elsewhere?")
    choose(card, "where", "Stone larder · Tin 2")
    card.get_by_role("button", name="Compare").click()
    row = card.get_by_role("row", name=re.compile("Stone larder · Tin 2")).first
    expect(row).to_contain_text("move 4 packets")
    row.get_by_role("button", name="put the moves on today’s list").click()
    expect(page.get_by_text("Planned 4 moves")).to_be_visible()
    card.get_by_role("button", name="shelf, fridge or freezer?").click()
    expect(card.get_by_text("in the freezer, airtight with desiccant")).to_be_visible()
    page.goto(f"{mill.url}/today")
    job = page.locator(".job", has_text="Move L5 to Stone larder · Tin 2")
    act(job, "done")
    expect(job).to_be_hidden()
    line = next(x for x in lines.lot_lines(mill.larder) if x.code == "L5")
    assert line.place == "Stone larder · Tin 2"


def test_the_good_places_are_proposed_and_a_logger_is_registered(mill, page):
    page.goto(f"{mill.url}/storage")
    page.get_by_role("button", name="Best use of good places").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("more seeds alive")).to_be_visible()
    boxes = dialog.get_by_role("checkbox")
    count = boxes.count()
    boxes.first.uncheck()
    dialog.get_by_role("button", name=f"Put {count - 1} moves on today’s list").click()
    expect(page.get_by_text(f"Planned {count - 1} moves")).to_be_visible()
    page.goto(f"{mill.url}/storage/{node(mill, 'Meal chest')}")
    page.get_by_role("button", name="a logger that sends by itself").click()
    page.get_by_label("its name").fill("mill-e")
    page.get_by_role("button", name="Register").click()
    token = page.locator(".token code").first.inner_text()
    assert len(token) > 30
    page.get_by_role("button", name="I have it").click()
    expect(page.get_by_text(token)).to_be_hidden()
    expect(page.get_by_text("not heard of yet")).to_be_visible()


def test_ten_years_of_readings_are_drawn_zoomed_and_moved(mill, page):
    larder = node(mill, "Stone larder")
    page.goto(f"{mill.url}/storage/{larder}")
    chart = page.get_by_label(re.compile("Climate of Stone larder"))
    expect(chart).to_be_visible()
    with page.expect_response(re.compile(r"/read\?")) as finer:
        chart.hover(position={"x": 300, "y": 80})
        for _ in range(6):
            page.mouse.wheel(0, -240)
            time.sleep(0.05)
    body = finer.value.json()
    assert body["to_s"] - body["from_s"] < 360 * 86_400
    assert all(len(s["at_s"]) < 2000 for s in body["series"])
    with page.expect_response(re.compile(r"/air\?")):
        page.get_by_role("button", name="earlier").click()


def test_beans_are_sealed_in_a_can_and_its_day_comes(mill, page):
    can = node(mill, "Door tub")
    page.goto(f"{mill.url}/storage/{can}")
    page.get_by_role("button", name="seal beans or grain in it").click()
    page.get_by_label("how much").fill("3,9")
    page.get_by_label("eaten a week").fill("0,3")
    expect(page.get_by_text("filled to the brim they hold")).to_be_visible()
    page.get_by_role("button", name="Sealed today").click()
    expect(page.locator(".foot .note", has_text="sealed with 3.9 kg")).to_be_visible()
    mill.clock.at_s += 62 * 86_400
    page.goto(f"{mill.url}/storage/{can}")
    expect(page.get_by_text("A can may be opened")).to_be_visible()
    due = page.locator("li", has_text="A can may be opened")
    due.get_by_role("button", name="quiet for a week").click()
    expect(due).to_be_hidden()

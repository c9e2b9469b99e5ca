"""The whole arc in one browser run: a dial goes in, forecasts move, a test decides, a need falls short."""

import re

from playwright.sync_api import Page, expect

DAY = 86_400


def open_room(page: Page, name: str):
    page.get_by_role("navigation", name="Rooms").get_by_role(
        "link", name=re.compile(f"^{name}")
    ).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text(name)


def strip_words(page: Page, code: str) -> str:
    return (
        page.locator(f'.lot[data-code="{code}"] .strip[role="img"]').get_attribute("aria-label")
        or ""
    )


def stays_to(words: str) -> int:
    """The year to which it is told to stay good, or the end of its range where that is wide."""
    found = re.search(r"to (?:likely 20\d\d–)?(\d{4}|\d\d)\b", words)
    assert found, words
    return int(found[1]) % 100 + 2000


def now_percent(words: str) -> int:
    found = re.search(r"now (?:\w+ )?(\d+) %", words)
    assert found, words
    return int(found[1])


def test_from_a_hot_damp_spell_to_a_regrow_and_back(mill, page):
    page.goto(mill.url)

    # before: the leek in tin 1 keeps for years, no test is wanted, the leeks are covered
    open_room(page, "Stock")
    expect(page.locator('.lot[data-code="L8"]')).to_be_visible()
    before = strip_words(page, "L8")
    assert stays_to(before) >= 2028
    open_room(page, "Tests")
    expect(page.get_by_role("heading", name="Deserve a test")).to_be_visible()
    expect(page.locator('.wanted tr[data-code="L8"]')).to_have_count(0)
    open_room(page, "Needs")
    leeks = page.locator('[data-food="Leeks"]')
    leeks.get_by_label("on the shelf of Leeks").click()
    page.get_by_label("your own number for on the shelf").fill("0")
    page.get_by_role("button", name="That is on the shelf").click()
    expect(leeks).to_contain_text("15 litres")
    expect(leeks).to_contain_text("covered")

    # a hot, damp spell: two touches per reading (the box, the button), the first one dated back
    open_room(page, "Storage")
    page.get_by_role("button", name=re.compile("^Tin 1")).click()
    page.get_by_label("temperature, °C").fill("34")
    page.get_by_label("humidity, per cent").fill("83")
    page.get_by_role("button", name="min, max, day").click()
    page.get_by_label("read on").click()
    page.keyboard.type("12/11/2026")
    page.get_by_label("read on").press("Enter")
    page.get_by_role("button", name="Log the dial").click()
    expect(page.get_by_text("Read Tin 1: 34 °C, 83 %")).to_be_visible()
    page.get_by_label("temperature, °C").fill("33,5")
    page.get_by_label("humidity, per cent").fill("82")
    page.get_by_label("humidity, per cent").press("Enter")
    expect(page.get_by_text("Read Tin 1: 33,5 °C, 82 %")).to_be_visible()
    expect(page.locator(".box.hurting", has_text="Tin 1")).to_be_visible()

    # the strip shortens, and a test is proposed
    open_room(page, "Stock")
    expect(page.locator('.lot[data-code="L8"] .strip[role="img"]')).not_to_have_attribute(
        "aria-label", before
    )
    hot = strip_words(page, "L8")
    assert stays_to(hot) < stays_to(before)
    open_room(page, "Tests")
    wanted = page.locator('.wanted tr[data-code="L8"]')
    expect(wanted).to_be_visible()
    expect(wanted).to_contain_text("seeds")

    # it is started: what the number can tell is said first
    wanted.get_by_role("button", name="Start").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("seeds").fill("12")
    dialog.get_by_label("seeds").press("Tab")
    expect(dialog).to_contain_text("12 of 12 up would say: at least 78 %")
    dialog.get_by_role("button", name="Sown: start").click()
    bench = page.locator("article.running", has_text="Winter Pillar")
    expect(bench).to_contain_text("12 seeds, not looked at yet")

    # counted on its last day: two of twelve
    mill.clock.at_s += 15 * DAY
    page.reload()
    bench.get_by_role("button", name="Count").click()
    dialog = page.get_by_role("dialog")
    for _ in range(2):
        dialog.get_by_role("button", name="one more up").click()
    expect(dialog).to_contain_text("10 not yet")
    expect(dialog.get_by_role("checkbox")).to_be_checked()
    dialog.get_by_role("button", name="Save count").click()
    expect(page.locator("tr", has_text="Winter Pillar").filter(has_text="2 of 12")).to_be_visible()
    # its verdict, one sentence first, before and after on one picture
    told = page.locator(".told", has_text="Winter Pillar")
    expect(told.locator(".verdict")).to_contain_text("2 of 12 up: ")
    expect(told.get_by_role("img")).to_have_attribute(
        "aria-label", re.compile("before .*counted 17 %.*now")
    )
    expect(told).to_contain_text("Fewer than was thought")

    # the belief moves
    open_room(page, "Stock")
    expect(page.locator('.lot[data-code="L8"]')).to_contain_text("regrow")
    tested = strip_words(page, "L8")
    assert now_percent(tested) < now_percent(hot) - 20

    # a need falls short: an order is proposed, with its reason
    open_room(page, "Needs")
    expect(leeks).to_contain_text("seeds short")
    leeks.get_by_role("button", name="why?").click()
    expect(leeks).to_contain_text("What is in hand promises")
    # and the line must be regrown
    open_room(page, "Growing")
    expect(page.locator(".line", has_text="Winter Pillar")).to_contain_text("not safe any more")
    open_room(page, "Today")
    page.get_by_role("button", name=re.compile("show all")).click()
    expect(page.locator(".job", has_text="Leeks")).to_be_visible()

    # undo takes the last act back: the count, and with it the shortfall
    open_room(page, "Papers")
    page.get_by_role("tab", name="What was done").click()
    page.locator(".history li", has_text="2 of 12 up").get_by_role(
        "button", name="take back"
    ).click()
    expect(page.get_by_text("Took back: Counted")).to_have_count(2)  # the note and the history
    open_room(page, "Needs")
    expect(leeks).not_to_contain_text("seeds short")  # a test under way is waited for
    page.keyboard.press("u")  # and the undo itself can be undone
    expect(leeks).to_contain_text("seeds short")

"""A lot's own page, the ribbon, settings; names for those who cannot see, contrast."""

import re

import pytest
from playwright.sync_api import expect

from brisk_larder.services.forecast import lines
from tests.ui.hands import act, choose

ROOMS = ("today", "stock", "storage", "tests", "needs", "growing", "saving", "papers")


def lot_id(mill, variety):
    return next(x.lot_id for x in lines.lot_lines(mill.larder) if x.variety == variety)


def act_on(page, button, fields, save):
    act(page, button)
    dialog = page.get_by_role("dialog")
    for label, value in fields.items():
        field = dialog.get_by_label(label, exact=True)
        if field.evaluate("e => Boolean(e.closest('.ant-select')) && e.readOnly"):
            choose(dialog, label, value, exact=True)
        else:
            field.fill(value)
    dialog.get_by_role("button", name=save).click()
    expect(dialog).to_have_count(0)


def test_everything_one_does_with_a_lot(mill, page):
    page.goto(f"{mill.url}/stock/{lot_id(mill, 'Noon Gold')}")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Noon Gold")
    act_on(page, "Sow", {"seeds": "15", "where": "outdoors"}, "Sown")
    expect(page.get_by_text("Sowed 15 of")).to_be_visible()
    act_on(page, "Grow this year", {"plants": "25", "for": "gift"}, "Put it on the list")
    expect(page.get_by_text("Grow 25 of")).to_be_visible()
    act_on(
        page,
        "Something happened",
        {"what": "rodents", "in your words": "a corner gnawed"},
        "Note it",
    )
    expect(page.locator("li", has_text="rodents, a corner gnawed").first).to_be_visible()
    act_on(page, "Put right", {"note": "by the south wall"}, "Save")
    expect(page.get_by_text("by the south wall").first).to_be_visible()
    page.get_by_role("button", name="show the exact terms").click()
    expect(page.get_by_text("median and 80 % interval of living")).to_be_visible()
    history = page.locator(".history li")
    expect(history.first).to_contain_text("note")
    for words in ("Sowed 15", "rodents"):
        expect(page.locator(".history li", has_text=words).first).to_be_visible()
    page.keyboard.press("6")
    expect(page.locator("tr", has_text="Noon Gold")).to_contain_text("15 outdoors")


def test_a_test_is_given_up_and_keeps_its_reason(mill, page):
    page.goto(f"{mill.url}/tests")
    bench = page.locator("article.running").first
    name = bench.locator(".name").inner_text()
    bench.get_by_role("button", name="Count").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Something went wrong with it").click()
    dialog.get_by_label("what went wrong").fill("dried out over the weekend")
    dialog.get_by_role("button", name="Give it up").click()
    expect(page.locator("article.running", has_text=name)).to_have_count(0)
    page.goto(f"{mill.url}/papers?tab=done")
    expect(page.locator(".history li").first).to_contain_text("dried out over the weekend")


def test_odd_seeds_are_counted_and_too_many_are_refused_before_saving(mill, page):
    page.goto(f"{mill.url}/tests")
    first = page.locator("article.running").first
    sown = int(re.search(r"of (\d+) up", first.inner_text()).group(1))
    first.get_by_role("button", name="Count").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("or type how many are up").fill(str(sown - 4))
    dialog.get_by_role("button", name="odd ones").click()
    dialog.get_by_label("mouldy").fill("2")
    expect(dialog).to_contain_text("2 not yet")
    dialog.get_by_label("hard, not swollen").fill("7")
    expect(dialog).to_contain_text(f"more than the {sown} sown")
    expect(dialog.get_by_role("button", name="Save count")).to_be_disabled()


def test_the_ribbon_tells_its_weeks_in_words(mill, page):
    page.goto(f"{mill.url}/today")
    ribbon = page.get_by_role("region", name="The household's year")
    expect(ribbon.get_by_text(re.compile("last frost 15 May"))).to_be_visible()
    week = ribbon.get_by_role("button", name=re.compile("sowing opens")).first
    week.click()
    expect(ribbon.get_by_role("status")).to_contain_text("sowing opens")
    week.press("Escape")
    expect(ribbon.get_by_role("status")).to_have_count(0)


def test_settings_are_saved_and_fahrenheit_is_shown_everywhere(mill, page):
    page.goto(f"{mill.url}/papers?tab=house")
    zone = page.get_by_label("time zone")
    zone.fill("Nowhere/Land")
    page.get_by_role("button", name="Save", exact=True).click()
    # what is refused is said at the field it names, and what was typed stays
    field = page.locator('[data-field="time zone"]')
    expect(field).to_contain_text("a name such as Europe/Lisbon")
    expect(zone).to_have_value("Nowhere/Land")
    zone.fill("Europe/London")
    choose(page, "temperatures in", "degrees Fahrenheit")
    page.get_by_label(re.compile("you sow as usual from")).fill("60")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("Changed the household", exact=True)).to_be_visible()
    page.keyboard.press("3")
    expect(page.locator(".box").first).to_contain_text("°F")
    page.get_by_role("button", name=re.compile("^Tin 2")).click()
    expect(page.get_by_label("temperature, °F")).to_be_visible()
    page.keyboard.press("Escape")
    page.goto(f"{mill.url}/stock/{lot_id(mill, 'Millrace')}")
    expect(page.get_by_text("60 %, the level you sow at")).to_be_visible()


def test_a_place_is_added_and_a_poisoned_can_refused(mill, page):
    page.goto(f"{mill.url}/storage")
    page.get_by_role("button", name=re.compile("Add a place")).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("a container in it").check()
    dialog.get_by_label("name").fill("Old can")
    choose(dialog, "stands in", "Loft")
    dialog.get_by_label("what did it hold before?").fill("paraffin")
    dialog.get_by_role("button", name="Add", exact=True).click()
    asked = page.get_by_role("dialog").filter(has_text="Before you do it")
    expect(asked).to_contain_text("it held fuel: its vapour harms seed")
    asked.get_by_role("button", name="Leave it").click()
    dialog.get_by_label("what did it hold before?").fill("biscuits")
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(page.locator(".box", has_text="Old can")).to_be_visible()


def test_every_control_has_a_name_and_every_picture_words(mill, page):
    page.goto(mill.url)
    for number, room in enumerate(ROOMS, start=1):
        page.keyboard.press(str(number))
        expect(page.get_by_role("heading", level=1)).to_contain_text(room.capitalize())
        page.wait_for_load_state("networkidle")
        nameless = page.evaluate(
            """() => [...document.querySelectorAll('button, a[href], input, select, [role=img]')]
                .filter(e => e.offsetParent !== null || e.getAttribute('role') === 'img')
                .filter(e => !(e.textContent || '').trim() && !e.getAttribute('aria-label') && !e.title
                    && !(e.labels && e.labels.length) && !e.closest('label') && !e.closest('[aria-hidden]'))
                .map(e => e.outerHTML.slice(0, 120))"""
        )
        assert nameless == [], room


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_text_stands_out_from_its_ground(mill, page, theme):
    page.goto(f"{mill.url}/stock")
    page.evaluate(f"localStorage.setItem('theme', '{theme}')")
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", theme)
    pairs = page.evaluate(
        """() => { const s = getComputedStyle(document.documentElement);
            const v = n => s.getPropertyValue(n).trim();
            return ['--ink', '--soft', '--act', '--warm', '--wet', '--living'].flatMap(
                n => ['--page', '--paper'].map(g => [n, g, v(n), v(g)])) }"""
    )

    def light(colour):
        channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    for name, ground, one, other in pairs:
        a, b = sorted((light(one), light(other)), reverse=True)
        assert (a + 0.05) / (b + 0.05) >= 4.5, (name, ground)

"""Reachable by all: axe on every page and main dialog, the household's units on every page, eight tasks by
keyboard alone, and what a thumb can hit."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from brisk_larder.data.acts import ActRef
from brisk_larder.services.forecast import lines
from brisk_larder.services.papers import settings_page
from brisk_larder.services.storage import shelves

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


def pages(mill) -> list[str]:
    lot = next(x.lot_id for x in lines.lot_lines(mill.larder) if x.variety == "Slate Curl")
    tin = next(
        b.node_id for s in shelves.shelves(mill.larder) for b in s.boxes if b.name == "Tin 1"
    )
    # a list is walked by a part of its rows: they are all made alike, and axe looks at each
    return [
        "/today", "/stock?only=bean", "/stock/add", "/stock/triage", "/stock/stocktake", f"/stock/{lot}",
        "/storage", "/storage/round", f"/storage/{tin}", "/tests", "/tests/right", "/needs", "/needs/basket",
        "/needs/fetch", "/needs/pantry", "/growing", "/growing/calendar", "/saving", "/papers",
        "/papers?tab=files", "/papers?tab=house", "/papers?tab=done", "/papers/labels", "/papers/parcels",
        "/nowhere",
    ]  # fmt: skip


def dialogs(mill) -> list[str]:
    lot = next(x.lot_id for x in lines.lot_lines(mill.larder) if x.variety == "Slate Curl")
    sheets = ("move", "edit", "count", "test", "weigh")
    return [
        *(f"/stock/{lot}?do={sheet}" for sheet in sheets),
        "/storage?do=add", "/storage?do=best", "/needs?do=food", "/today?do=job", "/today?find=1",
    ]  # fmt: skip


def arrive(page: Page, url: str):
    """There by a step inside the application where it stands in another room: it need not load anew."""
    path = "/" + url.split("/", 3)[3]
    room = lambda at: at.split("?")[0]  # noqa: E731
    if page.url.startswith(url.removesuffix(path)) and room(page.url) != room(url):
        page.evaluate(
            "path => { document.querySelectorAll('h1, .ant-modal-title').forEach(e => e.dataset.left = 1);"
            "history.pushState({}, '', path); dispatchEvent(new PopStateEvent('popstate')) }",
            path,
        )
    else:
        page.goto(url)
    here = page.locator("main h1:not([data-left]), .ant-modal-title:not([data-left])")
    expect(here.first).to_be_visible()
    expect(page.locator(".skeleton, .ant-skeleton, .waiting")).to_have_count(0)


def violations(page: Page, rules: list[str] = RULES, contrast: bool = True) -> list[str]:
    if not page.evaluate("() => Boolean(window.axe)"):
        page.evaluate(AXE.read_text())
    found = page.evaluate(
        "([rules, contrast]) => axe.run(document, {resultTypes: ['violations'], runOnly: rules, "
        "rules: contrast ? {} : {'color-contrast': {enabled: false}}})",
        [rules, contrast],
    )
    return [
        f"{v['id']}: {n['html'][:160]} {n.get('failureSummary', '')[:160]}"
        for v in found["violations"]
        for n in v["nodes"]
    ]


def test_axe_would_notice(mill, page):
    arrive(page, f"{mill.url}/saving")
    page.evaluate(
        "document.querySelector('main').insertAdjacentHTML('beforeend', "
        "'<button></button><span style=\"color:#eee\">hardly to be seen</span>')"
    )
    found = " ".join(violations(page))
    assert "button-name" in found
    assert "color-contrast" in found


METRIC = re.compile(
    r"\d ?(?:°C|kg|g|cm|mm|m|ml|l|litres?)(?![\w/])|°C|\bgrams?\b|\bkilos?\b|\blitres?\b|\bmetres?\b"
)
OTHER = re.compile(
    r"°F|\d ?(?:oz|lb|ft)\b|[\d⅛¼⅜½⅝¾⅞] in(?=$|[.,;)])"
    r"|\bounces?\b|\bpounds?\b|\bquarts?\b|\bpints?\b|\bcups?\b|\binch"
)
# what somebody typed stays as it was typed, and the choice of units names them all
SAID = (
    ".as-said, .history, [data-field='temperatures in'], [data-field='weights in'], "
    "[data-field='volumes in'], [data-field='lengths in']"
)
WORDS = """said => {
    const gone = new Set(document.querySelectorAll(said));
    const out = [];
    const look = n => {
        if (n.nodeType === 3) out.push(n.textContent);
        if (n.nodeType !== 1 || gone.has(n) || ['SCRIPT', 'STYLE'].includes(n.nodeName)) return;
        for (const a of ['aria-label', 'title', 'placeholder', 'alt']) out.push(n.getAttribute(a) || '');
        n.childNodes.forEach(look);
    };
    look(document.body);
    return out.map(t => t.trim()).filter(Boolean);
}"""


def foreign(page: Page, pattern: re.Pattern[str]) -> list[str]:
    """What a page says in units that are not the household's."""
    for more in page.get_by_role("button", name=re.compile("why|min, max, day")).all()[:4]:
        more.click()
    return [f"unit: {t}" for t in page.evaluate(WORDS, SAID) if pattern.search(t)]


def test_every_page_is_sound_for_axe_by_day_and_night_and_in_the_units_of_here(mill, page):
    wrong = {}
    for path in pages(mill):
        arrive(page, mill.url + path)
        found = violations(page)
        if (
            path.count("/") == 1 and "?" not in path
        ):  # colours alone change, and are those of the room
            page.get_by_role("button", name="Dark", exact=True).click()
            found += [f"dark: {v}" for v in violations(page, ["color-contrast"])]
            page.get_by_role("button", name="Light", exact=True).click()
        found += foreign(page, OTHER)
        if found:
            wrong[path] = found[:4]
    assert wrong == {}
    arrive(page, f"{mill.url}/stock")
    expect(page.locator(".lot", has_text="swede").first).to_be_visible()


def test_every_page_and_dialog_is_sound_on_a_phone_and_in_the_units_of_there(mill, phone):
    own = {
        "temperature_unit": "F", "mass_unit": "oz", "volume_unit": "qt", "length_unit": "ft",
        "locale": "en-US", "crop_names": "us",
    }  # fmt: skip
    settings_page.change_household(mill.larder, ActRef(), own)
    wrong = {}
    for path in [*pages(mill), *dialogs(mill)]:
        arrive(phone, mill.url + path)
        dialog = phone.get_by_role("dialog").count()
        # pages were looked at in the wide: here the rooms, for what a phone alone has, and the dialogs
        room = path.count("/") == 1 and "?" not in path
        found = violations(phone, contrast=bool(dialog)) if room or dialog else []
        if phone.get_by_role("dialog").count() == 0:
            found += foreign(phone, METRIC)
        else:
            found += [f"unit: {t}" for t in phone.evaluate(WORDS, SAID) if METRIC.search(t)]
        if phone.evaluate("document.documentElement.scrollWidth") > 390:
            found.append("wider than the phone")
        if found:
            wrong[path] = found[:4]
    assert wrong == {}
    arrive(phone, f"{mill.url}/stock")
    expect(phone.locator(".lot", has_text="rutabaga").first).to_be_visible()
    expect(phone.locator(".lot", has_text="swede")).to_have_count(0)


def tabbed(page: Page, name: str, most: int = 60):
    """By the Tab key alone to what is called so."""
    for _ in range(most):
        page.keyboard.press("Tab")
        here = page.evaluate(
            "() => { const e = document.activeElement; return (e.getAttribute('aria-label') || "
            "(e.labels && e.labels[0] && e.labels[0].textContent) || e.textContent || '').trim() }"
        )
        if here.startswith(name):
            return
    raise AssertionError(f"{name} is not reached by Tab; the last one was {here}")


def test_eight_tasks_go_by_keyboard_alone(mill, page):
    page.goto(f"{mill.url}/today")
    note = page.locator(".foot .note")
    expect(page.locator(".job").first).to_be_visible()
    # 1 a job of one's own, written and done on its row
    page.keyboard.press("n")
    expect(page.get_by_role("dialog").get_by_label("what")).to_be_focused()
    page.keyboard.type("turn the jars")
    page.keyboard.press("Enter")
    expect(page.locator(".job", has_text="turn the jars")).to_be_visible()
    tabbed(page, "turn the jars")
    page.keyboard.press("d")
    expect(note).to_contain_text("turn the jars: done")
    # 2 taken back
    page.keyboard.press("u")
    expect(note).to_contain_text("Took back")
    # 3 a packet is found and 4 counted
    page.keyboard.press("/")
    page.keyboard.type("slate curl")
    expect(page.get_by_role("option").first).to_contain_text("Slate Curl")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Slate Curl")
    tabbed(page, "Count seeds")
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    tabbed(page, "how much")
    page.keyboard.type("64")
    page.keyboard.press("Enter")
    expect(dialog).to_have_count(0)
    expect(page.locator(".lead")).to_contain_text("64 seeds")
    # 5 moved by the menu, chosen by typing
    tabbed(page, "more to do with")
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="Move").press("Enter")
    expect(dialog.get_by_label("to", exact=True)).to_be_focused()
    page.keyboard.type("drawer box")
    expect(page.locator(".ant-select-item-option-active")).to_contain_text("Drawer box")
    page.keyboard.press("Enter")
    tabbed(page, "Move it")
    page.keyboard.press("Enter")
    anyway = page.get_by_role("button", name="Do it all the same")
    anyway.or_(page.locator(".lead", has_text="Drawer box")).first.wait_for()
    if anyway.count():
        tabbed(page, "Do it all the same")
        page.keyboard.press("Enter")
    expect(page.locator(".lead")).to_contain_text("Drawer box")
    # 6 packets are chosen in the list and tagged together
    page.keyboard.press("2")
    expect(page.locator(".lot").first).to_be_visible()
    tabbed(page, page.locator(".lot a.open").first.get_attribute("aria-label") or "")
    page.keyboard.press("x")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Shift+X")
    expect(page.get_by_role("toolbar")).to_contain_text("3 chosen")
    page.get_by_role("toolbar").get_by_role("button", name="Tag").press("Enter")
    expect(dialog.get_by_label("tags", exact=True)).to_be_focused()
    page.keyboard.type("early")
    page.keyboard.press("Enter")
    expect(note).to_contain_text("tagged early")
    # 7 a dial is read
    page.keyboard.press("3")
    page.get_by_role("button", name=re.compile("^Tin 2")).press("Enter")
    expect(page.get_by_label(re.compile("^temperature, "))).to_be_focused()
    page.keyboard.type("9,5")
    page.keyboard.press("Enter")
    expect(note).to_contain_text("Read Tin 2")
    # 8 a sheet is closed by Esc and by Back, and gives the focus back
    page.get_by_role("navigation").get_by_role("link", name=re.compile("^Needs")).press("Enter")
    add = page.get_by_role("button", name="Add a food")
    for back in ("Escape", "Alt+ArrowLeft"):
        add.focus()
        page.keyboard.press("Enter")
        expect(dialog.get_by_label("what")).to_be_focused()
        page.keyboard.press("3")  # the keys of the page are silent meanwhile
        expect(dialog).to_be_visible()
        page.keyboard.press("Escape") if back == "Escape" else page.go_back()
        expect(dialog).to_have_count(0)
        expect(add).to_be_focused()


def test_shortcuts_are_listed_truly_and_can_be_switched_off(mill, page):
    page.goto(f"{mill.url}/stock/triage")
    expect(page.locator("li[data-lot]").first).to_be_visible()
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog", name="Shortcuts")
    for words in ("find anything", "the first advice", "sow thick", "take the last act back"):
        expect(dialog).to_contain_text(words)
    dialog.get_by_role("switch").click()
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.keyboard.press("2")
    page.locator("li[data-lot]").first.press("k")
    expect(page).to_have_url(re.compile("/stock/triage$"))
    page.get_by_role("button", name="Keys").click()
    dialog.get_by_role("switch").click()
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.keyboard.press("1")
    expect(page).to_have_url(re.compile("/today$"))
    expect(page).to_have_title("Today · Brisk Larder")
    expect(page.locator("main")).to_be_focused()

"""Reachable by all: axe on every page and main dialog, the household's units on every page, eight tasks by
keyboard alone, and what a thumb can hit."""

import re
from pathlib import Path

import pytest
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
    return [
        "/today", "/stock", "/stock/add", "/stock/triage", "/stock/stocktake", f"/stock/{lot}",
        "/storage", "/storage/round", f"/storage/{tin}", "/tests", "/needs", "/growing", "/saving",
        "/papers", "/papers?tab=files", "/papers?tab=house", "/papers?tab=done", "/papers/labels",
        "/papers/parcels", "/nowhere",
    ]  # fmt: skip


def dialogs(mill) -> list[str]:
    lot = next(x.lot_id for x in lines.lot_lines(mill.larder) if x.variety == "Slate Curl")
    sheets = ("move", "edit", "count", "test", "weigh")
    return [
        *(f"/stock/{lot}?do={sheet}" for sheet in sheets),
        "/storage?do=add", "/storage?do=best", "/needs?do=food", "/today?do=job", "/today?find=1",
    ]  # fmt: skip


def arrive(page: Page, url: str):
    page.goto(url)
    page.wait_for_load_state("networkidle")
    expect(page.locator(".skeleton")).to_have_count(0)


def violations(page: Page, rules: list[str] = RULES) -> list[str]:
    page.evaluate(AXE.read_text())
    found = page.evaluate(
        "rules => axe.run(document, {resultTypes: ['violations'], runOnly: rules})", rules
    )
    return [
        f"{v['id']}: {n['html'][:160]} {n.get('failureSummary', '')[:160]}"
        for v in found["violations"]
        for n in v["nodes"]
    ]


@pytest.mark.parametrize("how", ["light", "dark", "phone"])
def test_axe_finds_nothing_on_any_page_or_dialog(mill, page, phone, how):
    shown = phone if how == "phone" else page
    shown.goto(f"{mill.url}/api/words")
    shown.evaluate(
        "theme => localStorage.setItem('theme', theme)", "dark" if how == "dark" else "light"
    )
    wrong = {}
    paths = [*pages(mill), *(dialogs(mill) if how == "light" else [])]
    for path in paths:
        arrive(shown, mill.url + path)
        # the dark theme changes colours and nothing else
        if found := violations(shown, ["color-contrast"] if how == "dark" else RULES):
            wrong[path] = found[:4]
    assert wrong == {}


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


@pytest.mark.parametrize("where", ["here", "there"])
def test_every_page_speaks_in_the_households_own_units(mill, page, where):
    if where == "there":
        own = {
            "temperature_unit": "F", "mass_unit": "oz", "volume_unit": "qt", "length_unit": "ft",
            "locale": "en-US", "crop_names": "us",
        }  # fmt: skip
        settings_page.change_household(mill.larder, ActRef(), own)
    foreign = METRIC if where == "there" else OTHER
    wrong = {}
    for path in [*pages(mill), *dialogs(mill)]:
        arrive(page, mill.url + path)
        if "=" not in path:
            for why in page.get_by_role("button", name=re.compile("why|min, max, day")).all()[:4]:
                why.click()
        if found := [t for t in page.evaluate(WORDS, SAID) if foreign.search(t)]:
            wrong[path] = found[:6]
    assert wrong == {}
    arrive(page, f"{mill.url}/stock")
    names = page.locator(".lot").all_inner_texts()
    assert any(("swede" if where == "here" else "rutabaga") in n for n in names)
    assert not any(("rutabaga" if where == "here" else "swede") in n for n in names)

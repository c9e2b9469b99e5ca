"""What a hand does on the page: chooses, opens a quiet menu, answers what is asked."""

import re

from playwright.sync_api import Locator, Page, expect


def page_of(scope: Page | Locator) -> Page:
    return scope.page if isinstance(scope, Locator) else scope


def choose(scope: Page | Locator, label, option: str, exact: bool = False) -> None:
    """One of the options of a select, by its words."""
    page = page_of(scope)
    # its frame, not the field within (which lies under the words shown): only so does the click
    # wait for a page that is still growing above it
    field = scope.get_by_label(label, exact=exact)
    field.locator("xpath=ancestor::div[contains(@class,'ant-select-selector')][1]").click()
    box = page.locator(".ant-select-dropdown:visible").last
    wanted = box.locator(".ant-select-item-option", has_text=option)
    long_list = box.locator(".rc-virtual-list-holder")
    for _ in range(40):  # a long list draws only what is in sight, one still fetched nothing at all
        if wanted.count():
            break
        if long_list.count():
            long_list.evaluate("e => e.scrollBy(0, 160)")
        page.wait_for_timeout(30 if long_list.count() else 250)
    wanted.first.click()
    expect(page.locator(".ant-select-dropdown:visible")).to_have_count(0)


def chosen(scope: Page | Locator, label, exact: bool = False) -> Locator:
    """What a select shows as chosen."""
    field = scope.get_by_label(label, exact=exact)
    return field.locator("xpath=ancestor::div[contains(@class,'ant-select')][1]").locator(
        ".ant-select-selection-item"
    )


def act(scope: Page | Locator, words: str) -> None:
    """One of the acts of a page or row: on its button, or in its menu."""
    page = page_of(scope)
    button = scope.get_by_role("button", name=re.compile(rf"^{re.escape(words)}( \w)?$"))
    more = scope.get_by_role("button", name=re.compile("^more")).first
    expect(button.or_(more).first).to_be_visible()
    if button.count():
        button.first.click()
        return
    more.click()
    page.get_by_role("menuitem", name=re.compile(rf"^{re.escape(words)}")).click()


def typed(form: Locator, words: dict[str, str]) -> None:
    """Fields filled by their labels; one that lost its words to a page still settling is filled again, and
    one that loses them once more is named."""
    fields = {label: form.get_by_label(label, exact=True) for label in words}
    for label, field in fields.items():
        field.fill(words[label])
    for label, field in fields.items():
        if field.input_value() != words[label]:
            field.fill(words[label])
    for label, field in fields.items():
        expect(field, f"what was typed into {label}").to_have_value(words[label])

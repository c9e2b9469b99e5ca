"""The hand: jobs of one's own, evenings, tins divided, refusals at their field, the larder away."""

import re

from playwright.sync_api import expect

from brisk_larder.data.acts import ActRef
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.papers import settings_page
from brisk_larder.services.today import own_jobs
from brisk_larder.services.today.own_jobs import JobSaid
from tests.ui.hands import act, choose


def note(page):
    return page.locator(".foot .note")


def test_the_list_of_the_mill_is_short_and_an_evening_of_tests_is_begun_at_once(mill, page):
    page.goto(f"{mill.url}/today")
    expect(page.locator(".job").first).to_be_visible()
    assert page.locator(".job").count() <= 10
    evening = page.locator(".job", has_text="An evening's tests").first
    if not evening.count():
        page.get_by_role("button", name=re.compile("show all")).click()
    evening.get_by_role("button", name=re.compile("^show the")).click()
    packets = evening.locator(".each li").count()
    assert packets >= 2
    evening.get_by_role("button", name="Start these tests").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text(f"{packets} packets")
    dialog.get_by_role("button", name="Sown: start").click()
    anyway = page.get_by_role("button", name="Do it all the same")  # gloves for dressed or hot seed
    anyway.or_(note(page)).first.wait_for()
    if anyway.count():
        anyway.click()
    expect(note(page)).to_contain_text("Started tests of")
    page.goto(f"{mill.url}/tests")
    expect(page.locator("article.running")).to_have_count(4 + packets)
    page.goto(f"{mill.url}/papers?tab=done")
    expect(page.locator(".history li").first).to_contain_text("Tests of")


def test_a_job_of_ones_own_is_put_right_moved_and_taken_back(mill, page):
    page.goto(f"{mill.url}/today")
    page.get_by_role("button", name="A job of your own").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("what").fill("ask Morwen for leek seed")
    choose(dialog, "who", "Tamsel")
    dialog.get_by_label("again every so many weeks").fill("4")
    dialog.get_by_role("button", name="Write it down").click()
    job = page.locator(".job", has_text="ask Morwen")
    expect(job).to_contain_text("every 4 weeks")
    expect(job).to_contain_text("to Tamsel")
    act(job, "put right")
    dialog.get_by_label("what").fill("ask Morwen for leek seed and twine")
    dialog.get_by_role("button", name="Write it down").click()
    expect(page.locator(".job", has_text="and twine")).to_be_visible()
    act(job, "done")
    expect(note(page)).to_contain_text("done")
    page.get_by_role("button", name=re.compile("show all")).click()
    expect(job).to_contain_text(re.compile(r"by 2\d Dec"))  # it comes again in four weeks
    page.keyboard.press("u")
    expect(job).to_contain_text("· now")


def test_tins_are_divided_as_proposed(mill, page):
    page.goto(f"{mill.url}/stock?do=divide")
    dialog = page.get_by_role("dialog")
    for tin in ("Stair tin 1", "Stair tin 2"):
        dialog.locator("label", has_text=tin).get_by_role("checkbox").check()
    dialog.get_by_role("button", name="Propose").click()
    accept = dialog.get_by_role("button", name=re.compile("They are divided so: move"))
    moves = int(re.search(r"\d+", accept.inner_text()).group())
    before = {x.lot_id: x.node_id for x in lines.lot_lines(mill.larder)}
    accept.click()
    anyway = page.get_by_role("button", name="Do it all the same")
    anyway.or_(note(page)).first.wait_for()
    if anyway.count():
        anyway.click()
    expect(note(page)).to_contain_text(f"Divided {moves} packets")
    after = {x.lot_id: x.node_id for x in lines.lot_lines(mill.larder)}
    assert sum(before[i] != after[i] for i in before) == moves


def test_a_refusal_stands_at_the_field_it_names_and_nothing_is_lost(mill, page):
    page.goto(f"{mill.url}/storage?do=add")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("name", exact=True).fill("Tin 1 " * 40)
    dialog.get_by_role("button", name="Add", exact=True).click()
    field = dialog.locator('[data-field="name"]')
    expect(
        field.locator(".ant-form-item-explain-error").or_(page.get_by_role("alert")).first
    ).to_be_visible()
    expect(dialog.get_by_label("name", exact=True)).to_have_value("Tin 1 " * 40)


def test_the_larder_away_is_said_and_the_page_loads_when_it_is_back(mill, page):
    page.goto(f"{mill.url}/saving")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Saving")
    page.route("**/api/**", lambda route: route.abort())
    page.keyboard.press("3")
    expect(page.get_by_text("The larder does not answer")).to_be_visible()
    page.get_by_role("button", name="Ask now").click()
    expect(page.get_by_text("The larder does not answer")).to_be_visible()
    page.unroute("**/api/**")  # it asks by itself, too
    expect(page.locator(".box").first).to_be_visible()
    expect(page.get_by_text("The larder does not answer")).to_have_count(0)


def test_an_unknown_address_says_so(mill, page):
    page.goto(f"{mill.url}/stock/of/somebody/else")
    expect(page.get_by_role("heading", level=1)).to_have_text("There is no such page")
    expect(page).to_have_title("No such page · Brisk Larder")
    page.get_by_role("link", name="To Stock").click()
    expect(page.locator(".lot").first).to_be_visible()
    page.goto(f"{mill.url}/stock/99999")
    expect(page.get_by_text("This could not be read")).to_be_visible()


def test_a_calendar_begins_its_week_where_the_household_does(mill, page):
    def first_day():
        page.goto(f"{mill.url}/today?do=job")
        page.get_by_label("by when").click()
        return page.locator(".ant-picker-content th").first.inner_text()

    assert first_day() == "Mo"
    for day, said in ((0, "Su"), (6, "Sa")):
        settings_page.change_household(mill.larder, ActRef(), {"first_weekday": day})
        assert first_day() == said


def test_what_is_corrected_after_no_answer_is_an_act_of_its_own(mill, page):
    lost = []

    def swallow(route):
        lost.append(route.fetch().status)  # the larder does it; its answer never comes
        route.abort()

    before = len(lot_lines(mill.larder))
    page.goto(f"{mill.url}/stock/add")
    page.get_by_label("kind").first.fill("kale")
    page.get_by_label("name, or what it looks like").fill("Weir Curl")
    amount = page.locator('[data-field="quantity"] input')
    amount.fill("30")
    expect(page.get_by_text("30 seeds")).to_be_visible()
    page.route("**/api/stock/lots", swallow)
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("The larder does not answer").first).to_be_visible()
    page.unroute("**/api/stock/lots")
    amount.fill("80")
    expect(page.get_by_text("80 seeds")).to_be_visible()
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("list", name="Kept so far").get_by_role("listitem")).to_have_count(1)
    assert lost == [201]
    new = sorted(x.seeds for x in lot_lines(mill.larder) if x.variety == "Weir Curl")
    assert new == [30, 80]
    assert len(lot_lines(mill.larder)) == before + 2


def test_a_form_is_told_what_was_saved_since_it_was_opened_and_may_then_stand(mill, page):
    job = own_jobs.add_own_job(mill.larder, ActRef(), JobSaid("turn the jars")).job_id
    page.goto(f"{mill.url}/today")
    row = page.locator(".job", has_text="turn the jars")
    row.get_by_role("button", name="more").click()
    page.get_by_role("menuitem", name=re.compile("put right|change", re.I)).click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("what")).to_have_value("turn the jars")
    own_jobs.change_own_job(mill.larder, ActRef(), job, JobSaid("turn the tins"))
    dialog.get_by_label("what").fill("turn both")
    page.keyboard.press("Enter")
    expect(page.get_by_text("This was saved since your form was opened")).to_be_visible()
    expect(dialog.get_by_label("what")).to_have_value("turn both")
    expect(page.locator(".job", has_text="turn the tins")).to_be_visible()
    dialog.get_by_role("button", name="Write it down").click()
    expect(page.locator(".job", has_text="turn both")).to_be_visible()

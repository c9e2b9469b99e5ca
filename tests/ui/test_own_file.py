"""The first evening: the demo, then one's own larder at the same address, in the same browser."""

import shutil
from contextlib import contextmanager

from playwright.sync_api import expect

from brisk_larder.data.acts import ActRef
from brisk_larder.services.papers import settings_page
from tests.ui.conftest import serve
from tests.ui.hands import choose, chosen


@contextmanager
def served(path, port=None):
    server = serve(path, port)
    yield next(server)
    next(server, None)


def who(page):
    return page.get_by_label("Who is here")


def test_ones_own_larder_after_the_demo_takes_what_one_does(page, demo_file, tmp_path):
    demo, own = tmp_path / "demo.sqlite3", tmp_path / "own.sqlite3"
    shutil.copy(demo_file, demo)
    with served(demo) as mill:
        url, port = mill.url, int(mill.url.rsplit(":", 1)[1])
        page.goto(f"{url}/today")
        choose(page, "Who is here", "Brandic")
        page.reload()
        expect(chosen(page, "Who is here")).to_have_text("Brandic")
    with served(own, port) as mine:
        page.goto(f"{url}/storage")
        expect(page.get_by_text("Our larder")).to_be_visible()
        expect(who(page)).to_have_count(0)
        page.keyboard.press("n")
        page.get_by_label("name", exact=True).fill("Back pantry")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_text("Back pantry").first).to_be_visible()
        assert not page.get_by_role("alert").count()
        # and a person of one's own is not taken for the demo's of the same number
        settings_page.add_person(mine.larder, ActRef(), "Merrin")
        page.reload()
        expect(chosen(page, "Who is here")).to_have_text("somebody")
        choose(page, "Who is here", "Merrin")
        page.reload()
        expect(chosen(page, "Who is here")).to_have_text("Merrin")


def test_a_page_left_open_on_another_file_is_told_and_loads_again(page, demo_file, tmp_path):
    demo, own = tmp_path / "demo.sqlite3", tmp_path / "own.sqlite3"
    shutil.copy(demo_file, demo)
    with served(demo) as mill:
        url, port = mill.url, int(mill.url.rsplit(":", 1)[1])
        page.goto(f"{url}/storage")
        page.get_by_text("Stone larder").first.wait_for()
        page.keyboard.press("n")
        page.get_by_label("name", exact=True).fill("Back pantry")
    with served(own, port) as mine:
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_text("another larder than the one that is open now")).to_be_visible()
        expect(page.get_by_text("Our larder")).to_be_visible()  # it loads itself again
        with mine.larder.store.read() as session:
            count = session.connection().exec_driver_sql("SELECT count(*) FROM node").scalar()
        assert count == 0

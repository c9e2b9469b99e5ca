"""The stock out and in again: nothing lost, nothing half-saved, no formula smuggled in."""

import csv
import io
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlmodel import select

from brisk_larder.clock import MovedClock
from brisk_larder.core.base.errors import BadFile, Conflict, InvalidValue
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.data.tables import Lot
from brisk_larder.formats.stock_csv import COLUMNS, is_ours, read_stock, safe, unsafe, write_stock
from brisk_larder.services.acts.entry import add_seeds
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast import lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.papers import csv_files, everything, history, settings_page
from brisk_larder.services.stock import sheet, splitting, stock_table
from brisk_larder.services.stock import stock_files as files
from brisk_larder.services.stock import stock_files as stock_files
from tests.conftest import NOW, opened_demo


def opened(path):
    store = Store(path)
    ensure_model_rev(store)
    made = Larder(store, MovedClock(NOW))
    home.ensure_household(made, "Elsewhere", "Europe/London")
    return made


@pytest.fixture
def mill(demo_file, tmp_path):
    with opened_demo(demo_file, tmp_path) as made:
        yield made


@pytest.fixture
def other(tmp_path):
    made = opened(tmp_path / "other.sqlite3")
    yield made
    made.store.close()


def own_kind(mill, other):
    """The mill's own kinds have to be known elsewhere, or its seed of them is refused."""
    for kind in home.kinds(mill):
        if not kind.known and kind.key != "unknown":
            settings_page.add_own_kind(other, ActRef(), kind.name, None, "herb")


def test_the_stock_of_the_mill_comes_back_byte_for_byte(mill, other):
    own_kind(mill, other)
    first = stock_table.stock_csv(mill)
    done = stock_files.import_packets(other, ActRef(), "stock.csv", first.encode())
    assert len(done.lot_ids) == len(lines.lot_lines(mill))
    assert stock_table.stock_csv(other) == first
    there = {x.code: x for x in lines.lot_lines(mill)}
    for line in lines.lot_lines(other):
        twin = there[line.code]
        assert (line.variety, line.place, line.position) == (
            twin.variety,
            twin.place,
            twin.position,
        )
        assert (line.seeds, line.parts, line.years) == (twin.seeds, twin.parts, twin.years)
        assert (line.tags, line.intended_use, line.earmarked) == (
            twin.tags, twin.intended_use, twin.earmarked,
        )  # fmt: skip


def test_the_same_file_is_not_taken_in_twice_and_nothing_is_half_saved(mill, other):
    own_kind(mill, other)
    text = stock_table.stock_csv(mill)
    act = ActRef()
    stock_files.import_packets(other, act, "stock.csv", text.encode())
    before = stock_table.stock_csv(other)
    with pytest.raises(BadFile, match=r"line 2, code: .* is in use here already .and 10[0-9] more"):
        stock_files.import_packets(other, ActRef(), "stock.csv", text.encode())
    assert stock_table.stock_csv(other) == before
    history.undo(other, ActRef(), act.id)
    assert lines.lot_lines(other) == []


def test_everything_goes_into_an_empty_larder_and_out_the_same(mill, other):
    text = everything.everything_json(mill)
    rows = everything.restore_everything(other, "larder.json", text.encode())
    assert rows > 3000
    assert everything.everything_json(other) == text
    a, b = lines.lot_lines(mill), lines.lot_lines(other)
    assert [x.code for x in a] == [x.code for x in b]
    for one, two in zip(a, b, strict=True):
        assert one.glance.now.mid == pytest.approx(two.glance.now.mid, abs=1e-9)
    with pytest.raises(InvalidValue, match="an empty larder"):
        everything.restore_everything(other, "larder.json", text.encode())


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda d: d.update(format="x"), "its format"), (lambda d: d.update(schema="0001"), "has schema"),
        (lambda d: d["lot"].append({"id": 1, "code": "B1"}), "lot, row"),
        (lambda d: d["lot"].append({"nonsense": 1}), "lot, row 4: unknown: nonsense"),
        (lambda d: d["lot"].append(7), "lot, row 4"),
        (lambda d: d["stay"][1].update(from_s="long ago"), "stay, row 2: .*INTEGER"),
        (lambda d: d["part"][0].update(lot_id=999), "part: a row refers to a lot that is not there"),
    ],
)  # fmt: skip
def test_a_spoilt_file_of_everything_changes_nothing(small, other, change, why):
    data = json.loads(everything.everything_json(small.larder))
    change(data)
    before = everything.everything_json(other)
    with pytest.raises(BadFile, match=why):
        everything.restore_everything(other, "larder.json", json.dumps(data).encode())
    assert everything.everything_json(other) == before
    with pytest.raises(BadFile, match="not JSON"):
        everything.restore_everything(other, "larder.json", b"\xff\xfe{")


@pytest.mark.parametrize(
    ("column", "cell", "why"),
    [
        ("seeds", "many", "line 2, seeds: 'many' is no number"), ("treated", "perhaps", "line 2, treated"),
        ("origin_from", "2024", "line 2, origin_from"), ("kind", "triffid", "line 2, kind"),
        ("state", "lost", "line 2, row: not possible"), ("seeds", "-4", "line 2, row: not possible"),
        ("share", "3", "line 2, row: not possible"), ("mother_code", "ZZ9", "line 2, mother_code"),
    ],
)  # fmt: skip
def test_a_cell_that_cannot_be_is_named_and_all_of_it_refused(small, other, column, cell, why):
    rows = list(csv.reader(io.StringIO(stock_table.stock_csv(small.larder))))
    rows[1][list(COLUMNS).index(column)] = cell
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerows(rows)
    with pytest.raises(BadFile, match=why):
        files.import_stock(other, ActRef(), "s.csv", out.getvalue().encode())
    with other.store.read() as session:
        assert session.exec(select(Lot)).all() == []


@given(st.text(max_size=20))
def test_no_text_becomes_a_formula_and_every_text_comes_back(text):
    cell = safe(text)
    assert not cell.startswith(("=", "+", "-", "@", "\t", "\r"))
    assert unsafe(cell) == text


def test_a_note_that_looks_like_a_formula_is_made_safe_and_comes_back(small, other):
    notes = ["=1+2", "+44", "-row 3", "@home", "'=quoted", "plain"]
    for i, note in enumerate(notes):
        add_seeds(small.larder, ActRef(), [NewSeeds(kind="pea", variety=f"=Sort {i}", note=note)])
    for text in (stock_table.stock_csv(small.larder), csv_files.lots_csv(small.larder)):
        for row in csv.reader(io.StringIO(text)):
            assert not any(c.startswith(("=", "+", "-", "@")) for c in row), row
    text = stock_table.stock_csv(small.larder)
    files.import_stock(other, ActRef(), "s.csv", text.encode())
    assert [x.note for x in lines.lot_lines(other) if x.kind == "pea"] == notes
    assert stock_table.stock_csv(other) == text


def test_our_own_table_is_known_by_its_header_alone():
    text = write_stock([])
    assert is_ours(text)
    assert read_stock(text.encode(), "x") == []
    with pytest.raises(BadFile, match="not the stock"):
        read_stock(b"kind,name\npea,x\n", "x.csv")
    with pytest.raises(BadFile, match="3 cells"):
        read_stock((text + "a,b,c\r\n").encode(), "x.csv")


def test_split_and_mixed_lots_survive_the_journey(small, other):
    splitting.split_lot(small.larder, ActRef(), small.lots["kale"], "100")
    add_seeds(
        small.larder, ActRef(), [NewSeeds(kind="leek", variety="Bag", date="2021: 70, 2024: 30")]
    )
    text = stock_table.stock_csv(small.larder)
    files.import_stock(other, ActRef(), "s.csv", text.encode())
    assert stock_table.stock_csv(other) == text
    bag = next(x for x in lines.lot_lines(other) if x.variety == "Bag")
    assert (bag.parts, bag.years) == (2, [2021, 2024])


HEADER = "What;Sort;Bought;Left;Where;Germ;Depth\n"
MAPPING = {
    "kind": 0, "variety": 1, "year": 2, "quantity": 3, "place": 4, "stated_germination": 5,
    "packet_depth_cm": 6,
}  # fmt: skip


def test_a_table_is_looked_at_tried_and_taken(small):
    larder = small.larder
    text = HEADER + "pea;Millrace F1;packed 2024;1 packet;tin;85 %;4\nkale;Slate Curl;2023;;;;\n"
    look = sheet.look_at_sheet(text, "t.csv")
    assert look.mapping["kind"] == 0
    assert look.mapping["tested"] == 5
    assert (look.rows, look.has_header) == (2, True)
    seen = sheet.check_sheet(larder, text, "t.csv", MAPPING, None)
    assert [u.problems for u in seen] == [{}, {}]
    assert seen[0].item.hybrid
    assert seen[0].item.node_id == small.nodes["tin"]
    assert seen[1].twin_words.startswith("You already have one of these: K1 Slate Curl, 700")
    assert len(lines.lot_lines(larder)) == 3  # nothing was saved
    done = sheet.take_sheet(larder, ActRef(), text, "t.csv", MAPPING, small.nodes["porch"], [3])
    assert len(done.lot_ids) == 1
    pea = next(x for x in lines.lot_lines(larder) if x.kind == "pea")
    assert (pea.variety, pea.hybrid, pea.place) == ("Millrace", True, "larder · tin")


def test_bad_rows_are_named_by_line_and_field_and_nothing_is_taken(small):
    text = (
        HEADER
        + "pea;A;1870;90;;;\npea;B;2024;5 furlongs;;;\npea;C;2024;9;attic;;\npea;D;2024;9;;high;\n"
    )
    text += "pea;E;2024;9;;;;extra\n"
    seen = sheet.check_sheet(small.larder, text, "t.csv", MAPPING, None)
    assert [sorted(u.problems) for u in seen] == [
        ["date"], ["quantity"], ["place"], ["stated_germination"], ["row"],
    ]  # fmt: skip
    with pytest.raises(BadFile, match="line 2, date") as refused:
        sheet.take_sheet(small.larder, ActRef(), text, "t.csv", MAPPING, None, [])
    assert {p["line"] for p in refused.value.problems} == {2, 3, 4, 5, 6}
    with pytest.raises(BadFile, match="left out"):
        sheet.take_sheet(small.larder, ActRef(), text, "t.csv", MAPPING, None, [2, 3, 4, 5, 6])
    for mapping, why in (
        ({"colour": 0}, "mapping"), ({"kind": 40}, "column"), ({"year": 0}, "kind or name"),
    ):  # fmt: skip
        with pytest.raises(InvalidValue, match=why):
            sheet.check_sheet(small.larder, text, "t.csv", mapping, None)
    assert len(lines.lot_lines(small.larder)) == 3


def test_a_paste_without_a_header_and_codes_given_twice(small):
    look = sheet.look_at_sheet("pea\tMillrace\t2024\t90\nkale\tSlate\t2023\t40\n", "the paste")
    assert (look.has_header, look.rows) == (False, 2)
    assert look.mapping == {"kind": 0, "variety": 1, "year": 2, "quantity": 3}
    text = "kind,name,code\npea,A,X1\npea,B,X1\npea,C,K1\n"
    seen = sheet.check_sheet(small.larder, text, "t", sheet.look_at_sheet(text, "t").mapping, None)
    assert [sorted(u.problems) for u in seen] == [[], ["code"], ["code"]]
    with pytest.raises(BadFile, match="larger"):
        sheet.look_at_sheet("x" * 5_000_001, "t")
    with pytest.raises(BadFile, match="more than 5000"):
        sheet.look_at_sheet("kind\n" + "pea\n" * 5002, "t")


def test_a_stale_check_is_asked_again_when_it_is_taken(small):
    text = "kind,name,code\npea,A,X1\n"
    mapping = sheet.look_at_sheet(text, "t").mapping
    sheet.check_sheet(small.larder, text, "t", mapping, None)
    add_seeds(small.larder, ActRef(), [NewSeeds(kind="pea", code="X1")])
    with pytest.raises((BadFile, Conflict), match="code"):
        sheet.take_sheet(small.larder, ActRef(), text, "t", mapping, None, [])

"""Units at the edges, and reference rows that refuse nonsense."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from brisk_larder.core.base import errors
from brisk_larder.core.base import units as u
from brisk_larder.core.base.errors import InvalidValue
from brisk_larder.reference import Crop, ReferenceError, load_reference
from brisk_larder.reference.load import parse_isotherms, parse_rows
from brisk_larder.reference.row_shapes import ModelFigure, StorageKind


def test_temperatures_and_masses():
    assert u.c_from_f(212) == pytest.approx(100)
    assert u.f_from_c(u.c_from_f(61.3)) == pytest.approx(61.3)
    assert u.grams(1, "lb") == pytest.approx(453.592, abs=1e-3)


def test_months_and_days():
    assert (
        u.next_month_s(u.month_start_s(1_798_000_000)) - u.month_start_s(1_798_000_000)
        == 31 * 86_400
    )
    assert u.local_day(u.day_start_s(u.local_day(1_790_000_000, "Pacific/Auckland"), "Pacific/Auckland"),
                       "Pacific/Auckland") == u.local_day(1_790_000_000, "Pacific/Auckland")  # fmt: skip
    with pytest.raises(InvalidValue, match="time zone"):
        u.zone("Valley/Nowhere")


def test_every_reference_row_is_valid_and_sourced():
    ref = load_reference()
    assert len(ref.crops) == 90
    said = {name: kind for kind, names in ref.store_names.items() for name in names}
    wanted = ("binder with pockets", "album", "photo case", "drawer", "safe", "stair cupboard")
    assert [said[w] for w in wanted] == [
        "zip_bag", "paper_envelope", "plastic_tub_snap", "wooden_box", "metal_tin_plain", "inner_cupboard",
    ]  # fmt: skip
    assert len(said) == sum(map(len, ref.store_names.values()))  # each word is of one kind
    assert all(row.unit and row.what and row.source for row in ref.model.values())
    sourced = {"moisture.legume_overdry_pct", "moisture.warmth_sd", "trials.fallen_share"}
    assert {key for key, row in ref.model.items() if not row.is_guess} == sourced
    assert all(row.source for row in ref.places.values())
    assert ref.crops["onion"].years_cool_dry.low == 1


@pytest.mark.parametrize(
    ("model", "text", "says"),
    [
        (ModelFigure, "key,value,unit,what,source\na,x,m,long enough,b\n", "line 2, value"),
        (ModelFigure, "key,value,unit,what,source\na,1,b\n", "line 2: 5 columns"),
        (StorageKind, "container_kind,moisture_exchange_time_constant_days,airtight,rodent_proof,"
         "light_proof,note,source,confidence,agreement\njar,9-2,yes,yes,no,,,0.5,both\n", "ends before"),
        (Crop, "crop\nx\n", "species"),
    ],
)  # fmt: skip
def test_a_bad_row_names_file_line_and_field(model, text, says):
    with pytest.raises(ReferenceError, match=says):
        parse_rows("x.csv", text, model)


def test_an_isotherm_that_falls_is_refused():
    columns = ",".join(f"mc_pct_fwb_at_rh_{rh}" for rh in (10, 20, 30, 45))
    text = f"crop,temperature_c,{columns},source,confidence\nx,25,5,4,6,7,s,1\n"
    with pytest.raises(ReferenceError, match="rising"):
        parse_isotherms("i.csv", text)


@given(
    st.integers(631_152_000, 2_500_000_000),
    st.sampled_from(["UTC", "Europe/London", "Pacific/Auckland"]),
)
def test_an_instant_lies_in_its_own_day_and_month(at_s, tz):
    start = u.day_start_s(u.local_day(at_s, tz), tz)
    assert start <= at_s < start + 25 * 3600  # the day the clocks go back has twenty-five hours
    month = u.month_start_s(at_s)
    assert month <= at_s < u.next_month_s(month)
    assert u.utc_day_start_s(at_s) % u.DAY_S == 0
    assert 1 <= u.day_of_year(at_s) < 367


@pytest.mark.parametrize(
    ("kind", "needs"),
    [
        (errors.InvalidValue("humidity", 1.4, "1 to 100 %"), ("humidity", "1.4", "1 to 100 %")),
        (errors.Conflict("moved again", yours=1, theirs=2), ("moved again",)),
        (errors.BadFile("x.csv, line 3", [{"line": 3}]), ("x.csv, line 3",)),
        (errors.NotFound("no lot 7"), ("no lot 7",)),
    ],
)
def test_errors_say_what_was_given_and_what_is_allowed(kind, needs):
    assert isinstance(kind, errors.LarderError)
    assert all(part in kind.message for part in needs)
    assert str(kind) == kind.message

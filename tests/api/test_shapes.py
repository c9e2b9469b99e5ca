"""A value of the wrong shape is refused in words that say what to do, never in those of the validator."""

import pytest
from fastapi.testclient import TestClient

from brisk_larder.api.problems import shape_words
from tests.conftest import app_of


@pytest.fixture
def client(small):
    return TestClient(app_of(small.larder), base_url="http://127.0.0.1")


@pytest.mark.parametrize(
    ("path", "body", "said"),
    [
        ("tests", {"lot_id": 1, "n": "many"}, "seeds ('many') is not possible: a whole number"),
        ("tests", {"lot_id": 1, "n": 2.5}, "seeds ('2.5') is not possible: a whole number"),
        ("tests", {"lot_id": 1}, "seeds is missing"),
        ("sowings", {"lot_id": 1, "n": None}, "seeds is not possible: a whole number"),
        ("stock/many", {"what": "tag", "lot_ids": [], "tags": "x"}, "at least 1 of them"),
        (
            "stock/many",
            {"what": "state", "lot_ids": [1], "state": "lost"},
            "here, fetched, missing or gone",
        ),
        ("jobs/own", {"text": "x", "due": "soon"}, "a day such as 2026-11-24"),
        ("storage/round", {"stops": "all"}, "a list"),
        (
            "needs/picks",
            {"lot_id": "K1", "plants": 3},
            "packet ('K1') is not possible: a whole number",
        ),
    ],
)
def test_what_it_should_have_been_is_said(client, path, body, said):
    answer = client.post(f"/api/{path}", json=body)
    assert answer.status_code == 422, answer.text
    detail = answer.json()["detail"]
    assert said in detail
    assert "Input should" not in detail
    assert "should be a valid" not in detail


def test_limits_are_said_as_people_say_them():
    def words(kind, given=7, **ctx):
        return shape_words("body.mass_g", {"type": kind, "ctx": ctx, "input": given, "msg": "?"})

    assert words("greater_than_equal", ge=1) == "weight ('7') is not possible: 1 or more"
    assert words("greater_than", gt=1) == "weight ('7') is not possible: more than 1"
    assert words("less_than_equal", le=5) == "weight ('7') is not possible: 5 or less"
    assert words("less_than", lt=5) == "weight ('7') is not possible: less than 5"
    assert words("string_too_long", "x" * 90, max_length=80).endswith("at most 80 signs")
    assert words("extra_forbidden") == "weight is not known here"
    assert words("something new") == "weight ('7') is not possible: ?"

"""Benchmarks run alone, quickly, and end with one JSON line that holds ours and the baseline's figures."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

FOLDER = Path(__file__).resolve().parents[1] / "benchmarks"


def test_every_benchmark_takes_quick_and_says_how_it_is_used():
    scripts = sorted(p for p in FOLDER.glob("*.py") if "def main" in p.read_text())
    assert len(scripts) >= 3
    for path in scripts:
        text = path.read_text()
        assert '"--quick" in sys.argv' in text, path.name
        assert "json.dumps(" in text.rsplit("def main", 1)[1], path.name
        assert f"benchmarks/{path.name}" in text, path.name


@pytest.mark.parametrize("name", ["ageing.py"])
def test_the_vectorised_integral_equals_the_plain_loop(name):
    """No time is asserted: only that both sides computed the same thing, and that figures come out."""
    done = subprocess.run(
        [sys.executable, str(FOLDER / name), "--quick"], capture_output=True, text=True, check=True
    )
    lines = done.stdout.strip().splitlines()
    assert len(lines) > 3  # a table for people
    figures = json.loads(lines[-1])
    assert figures["difference"] < 1e-6
    assert figures["one_thread_s"] > 0
    assert figures["ratio"] == pytest.approx(figures["numpy_loop_s"] / figures["one_thread_s"])


@pytest.mark.parametrize(
    ("name", "holds"),
    [
        ("reading.py", lambda f: f["increment_equals_full"] is True and f["full_over_both"] > 0),
        ("import_csv.py", lambda f: f["rows"] == 30_000 and f["ratio"] > 0),
        ("kills.py", lambda f: f["lost"] == 0 and f["kills_in_acts"] >= 6),
        ("chart.py", lambda f: all(x["points"] < 2000 for x in f["by_span"].values())),
    ],
)
def test_the_scripts_of_readings_run_and_say_what_they_measured(name, holds, tmp_path):
    """Each builds its own larder; what they assert inside (rows, points, equality) is the check."""
    done = subprocess.run(
        [sys.executable, str(FOLDER / name), "--quick"], capture_output=True, text=True, check=True,
        env={**os.environ, "TMPDIR": str(tmp_path)},
    )  # fmt: skip
    assert holds(json.loads(done.stdout.strip().splitlines()[-1]))


def test_the_plan_of_the_years_is_proven_and_never_dearer_than_a_greedy_one():
    done = subprocess.run(
        [sys.executable, str(FOLDER / "years.py"), "--quick"],
        capture_output=True,
        text=True,
        check=True,
    )
    figures = json.loads(done.stdout.strip().splitlines()[-1])
    assert figures["gap"] == [0.0] * len(figures["seconds"])
    assert min(figures["greedy_pct"]) >= -0.01


def test_rooms_go_on_while_a_file_comes_in(demo_file):
    done = subprocess.run(
        [sys.executable, str(FOLDER / "import_meanwhile.py"), "--quick", "mill", str(demo_file)],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    figures = json.loads(done.stdout.strip().splitlines()[-1])
    assert figures["rows"] == 12_000
    assert figures["ratio"] > 0


def test_eight_years_by_the_forecast_spare_seed_and_packets_and_keep_their_promise():
    done = subprocess.run(
        [sys.executable, str(FOLDER / "policy.py"), "--quick"],
        capture_output=True,
        text=True,
        check=True,
    )
    figures = json.loads(done.stdout.strip().splitlines()[-1])
    assert figures["forecast"]["short"] <= 0.11
    assert figures["ratio"]["test_seeds"] <= 0.35
    assert figures["ratio"]["needless"] <= 0.25
    assert figures["no tests"]["needless"] > 2 * figures["forecast"]["needless"]


def test_a_spring_lived_by_the_list_keeps_its_word():
    """No act that is offered is refused, nothing comes back or vanishes, and quiet days are quiet."""
    done = subprocess.run(
        [sys.executable, str(FOLDER / "year.py"), "--quick"],
        capture_output=True,
        text=True,
        check=True,
    )
    figures = json.loads(done.stdout.strip().splitlines()[-1])["made up"]
    for nothing in ("refused", "came_back", "vanished"):
        assert figures[nothing] == 0, figures["said"]
    assert figures["flips"] == {}, figures["said"]
    assert figures["by_kind"]["sow"] > 5
    assert figures["days_walked"] >= 4

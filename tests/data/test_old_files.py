"""A file of every schema there was, as the program of its day wrote it, opens with all it held."""

import lzma
from pathlib import Path

import pytest
from sqlmodel import func, select

from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.files import _known_revisions, revision_of
from brisk_larder.data.store import Store
from brisk_larder.data.tables import FoodTarget, Lot, Reading
from brisk_larder.services.acts import lot_acts
from brisk_larder.services.acts.lot_acts import LotEdit
from brisk_larder.services.forecast.lines import lot_lines
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs.chains import needs_room
from brisk_larder.services.papers import history
from brisk_larder.services.papers.mending import mend
from brisk_larder.services.today.jobs import today_room
from tests.conftest import NOW

# the examples of the README brought in by the command of that day: 12 packets, 2,880 readings, two foods
KEPT = sorted((Path(__file__).parent / "old").glob("*.xz"))
NEVER_ALONE = {"0011", "0012", "0013"}  # came with 0014 in one step


def test_no_schema_is_forgotten():
    newest, *older = _known_revisions()
    assert {p.name.split(".")[0] for p in KEPT} == {*older} - NEVER_ALONE, f"and not {newest}"


@pytest.mark.parametrize("kept", KEPT, ids=lambda p: p.name.split(".")[0])
def test_a_file_of_its_day_opens_with_all_it_held(kept, tmp_path):
    path = tmp_path / "larder.sqlite3"
    path.write_bytes(lzma.decompress(kept.read_bytes()))
    assert revision_of(path) == kept.name.split(".")[0]
    store = Store(path)
    assert revision_of(store.saved_before_migration) == kept.name.split(".")[0]
    ensure_model_rev(store)
    larder = Larder(store, MovedClock(NOW))
    assert mend(larder) == []
    with store.read() as session:
        counts = [
            session.exec(select(func.count()).select_from(t)).one()
            for t in (Lot, Reading, FoodTarget)
        ]
    assert counts == [12, 2880, 2]
    lines = lot_lines(larder)
    assert len(lines) == 12
    assert all(0 <= x.glance.now.low <= x.glance.now.high <= 1 for x in lines)
    assert {x.product for x in needs_room(larder).lines} == {
        "onions, cured and stored",
        "peas, shelled, frozen",
    }
    before = today_room(larder)
    lot_acts.edit_lot(larder, ActRef(), lines[0].lot_id, LotEdit(note="looked at"))
    history.undo(larder, ActRef(), history.recent(larder, 1)[0].act_id)
    assert today_room(larder).jobs == before.jobs
    store.close()

"""What tests of relatives did to a forecast, in sentences."""

from __future__ import annotations

from dataclasses import dataclass

from sqlmodel import Session

from ..household.kinds import figures
from .parts import PartRecord
from .relatives import near


@dataclass(frozen=True)
class KinSays:
    """A sentence and what stands behind it."""

    says: str
    behind: str


def times_as_long(d: float) -> str:
    """A shift of log10 life in words."""
    factor = 10.0**d
    if factor >= 1:
        return f"about {factor:.1f} times as long"
    return f"about {100 * factor:.0f} % as long"


def kin_says(session: Session, row: PartRecord) -> list[KinSays]:
    """What the house, the kind, the places and the mother line say of a part, beside its own tests."""
    kept = near(session, [row.part_id]).get(row.part_id)
    if kept is None:
        return []
    d_mean, d_sd, by = kept[0], kept[1], kept[4:]
    subjects = (
        "Over all tests of this house, seed keeps {} as the book says",
        f"By tests of your other {row.kind.name}, it keeps {{}} as the book says",
        "By tests of what lay in the same places, seed keeps {} there as was reckoned",
        "By tests of seed of the same line, it keeps {} as the book says",
    )
    out = []
    for d, words in zip(by, subjects, strict=True):
        if abs(d) >= figures().telling.kin_log10:
            behind = f"{d:+.3f} of {d_mean:+.3f} in log10 sigma by relatives; sd {d_sd:.2f} before its tests"
            out.append(KinSays(words.format(times_as_long(d)) + ".", behind))
    return out

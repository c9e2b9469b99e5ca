"""Why a number or a proposal stands: a code and SI figures. No prose here; services word it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

Figure = float | int | str | None


@dataclass(frozen=True)
class Reason:
    """One reason.

    code: what kind of reason; the services hold one sentence per code.
    figures: quantities in SI units (fractions, days, degC, epoch seconds), named with units.
    """

    code: str
    figures: Mapping[str, Figure] = field(default_factory=dict)

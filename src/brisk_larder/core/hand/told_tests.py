"""A germination as people write it down: 9/10, 9 of 10, 72 %."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..base.errors import InvalidValue

OF = re.compile(
    r"(\d{1,4})\s*(?:/|of|out of|von|sur|de|su|van)\s*(\d{1,4})(?:\s*(?:up|came up|seeds?))?"
)
SHARE = re.compile(r"(?:about|ca\.?|~)?\s*(\d{1,3}(?:[.,]\d+)?)\s*(%|percent|per cent|pct)?")
MOST_SEEDS = 400


@dataclass(frozen=True)
class Tested:
    """A test somebody wrote down: the share that came up, and of how many (None: nobody wrote)."""

    share: float
    n: int | None

    @property
    def words(self) -> str:
        """The same in words."""
        if self.n is None:
            return f"{100 * self.share:.0f} %"
        return f"{self.share * self.n:.0f} of {self.n}"


def read_tested(text: str) -> Tested | None:
    """What was written; None: nothing. A number alone is in per cent, one of at most 1 with a point a share.
    Raises InvalidValue for what cannot be."""
    plain = " ".join(text.strip().lower().split())
    if plain in ("", "-", "?", "no", "not tested", "untested"):
        return None
    if found := OF.fullmatch(plain):
        up, n = int(found[1]), int(found[2])
        if not (1 <= n <= MOST_SEEDS and up <= n):
            raise InvalidValue(
                "tested", text, f"no more up than were sown, at most {MOST_SEEDS} seeds"
            )
        return Tested(up / n, n)
    if found := SHARE.fullmatch(plain):
        value = float(found[1].replace(",", "."))
        part = not found[2] and value <= 1 and ("." in found[1] or "," in found[1])
        share = value if part else value / 100
        if share <= 1:
            return Tested(share, None)
    raise InvalidValue("tested", text, "9/10, 9 of 10 or 72 %")

"""Codes that a field may have: said in the contract, and checked before the house is asked."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from ..core.hand.filing import GROUPINGS
from ..core.judging.schools import SCHOOLS
from ..core.lines.regrow_plan import PURITY
from ..core.needs.pantry import GONE
from ..core.storage.barrier import CLOSINGS
from ..data.tables_taking_stock import CONDITIONS
from ..services.acts.ledger import LEDGER_WORDS
from ..services.acts.lot_acts import LOT_EVENTS
from ..services.growing.own_days import SETTINGS
from ..services.household.kinds import OVERRULED
from ..services.needs.chain_lines import EATEN_BY, LINKS, PURPOSES
from ..services.papers.settings_page import KIND_SEASONS, LIVING_PLACES
from ..services.stock.stocktakes import RESTS, RESULTS
from ..services.stock.triage_page import DECISIONS
from ..services.storage.containers import PLAIN_EVENTS
from ..services.today.jobs import STATES
from ..services.trials.trial_acts import MEDIA


@dataclass(frozen=True)
class _OneOf:
    """A text that is one of some codes; the lists stand where their rules are."""

    codes: tuple[str, ...]

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.literal_schema(list(self.codes))


def _one_of(codes: Iterable[str]) -> _OneOf:
    return _OneOf(tuple(codes))


Closing = Annotated[str, _one_of(CLOSINGS)]
Condition = Annotated[str, _one_of(CONDITIONS)]
Decision = Annotated[str, _one_of(DECISIONS)]
EatenBy = Annotated[str, _one_of(EATEN_BY)]
Grouping = Annotated[str, _one_of(GROUPINGS)]
JobState = Annotated[str, _one_of(STATES)]
KindSeason = Annotated[str, _one_of(KIND_SEASONS)]
LedgerKind = Annotated[str, _one_of(LEDGER_WORDS)]
Link = Annotated[str, _one_of(LINKS)]
Living = Annotated[str, _one_of(LIVING_PLACES)]
LotEvent = Annotated[str, _one_of(LOT_EVENTS)]
Medium = Annotated[str, _one_of(MEDIA)]
NodeEvent = Annotated[str, _one_of(PLAIN_EVENTS)]
Overruled = Annotated[str, _one_of(OVERRULED)]
Pantry = Annotated[str, _one_of(("counted", "put_up", *GONE))]
Purity = Annotated[str, _one_of(PURITY)]
Purpose = Annotated[str, _one_of(PURPOSES)]
Rest = Annotated[str, _one_of(RESTS)]
Result = Annotated[str, _one_of(RESULTS)]
School = Annotated[str, _one_of(SCHOOLS)]
Setting = Annotated[str, _one_of(SETTINGS)]

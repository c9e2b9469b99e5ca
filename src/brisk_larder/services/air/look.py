"""One look at the larder: what a room reads, from one state of the file, each thing once."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from functools import cached_property

from sqlmodel import Session

from ...data.tables import Household
from ..household.kinds import Kinds, load_kinds
from ..household.larder import Larder, household, today
from .air import Air


class Look:
    """What a room is made of: session, household, kinds, what stands where and the air there, read when
    asked for and then kept for this look."""

    def __init__(self, larder: Larder, session: Session) -> None:
        self.session = session
        self.now_s = larder.now_s()
        self._larder = larder

    @cached_property
    def home(self) -> Household:
        """The household. Raises NotFound before it was set up."""
        return household(self.session)

    @cached_property
    def kinds(self) -> Kinds:
        """All kinds with the household's overlay."""
        return load_kinds(self.session)

    @cached_property
    def air(self) -> Air:
        """What stands where, and the air there for the last year and on."""
        return Air(self.session, self.home, self.now_s)

    @cached_property
    def today(self) -> date:
        """The household's local day."""
        return today(self._larder, self.home)


@contextmanager
def looking_at(larder: Larder) -> Iterator[Look]:
    """A look at one consistent state of the file, for reading only."""
    with larder.store.read() as session:
        yield Look(larder, session)

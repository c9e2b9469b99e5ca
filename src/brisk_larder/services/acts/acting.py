"""How a service acts: one transaction, done once, its result typed, and what it makes stale marked."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from functools import cache, cached_property, wraps
from typing import Any, Concatenate, ParamSpec, TypeVar, get_type_hints

from pydantic import TypeAdapter

from ...data.acts import ActRef, Recorder, one_act
from ...data.tables import Household
from ..air.air import Air
from ..forecast.stale import follow
from ..household.kinds import Kinds, load_kinds
from ..household.larder import Larder, household

P = ParamSpec("P")
R = TypeVar("R")


@dataclass(frozen=True)
class Done:
    """It was done; there is nothing more to tell."""


@dataclass
class Doing(Recorder):
    """What an act works with: its session and moment, the household, its kinds, the air.

    It says what was done (``summary``) and what it is about; rows are simply changed in the session.
    """

    larder: Larder | None = None

    @property
    def of(self) -> Larder:
        """The larder it is done in."""
        assert self.larder is not None, "given when the act is begun"
        return self.larder

    @cached_property
    def home(self) -> Household:
        """The household."""
        return household(self.session)

    @property
    def kinds(self) -> Kinds:
        """All kinds, as they stand now."""
        return load_kinds(self.session)

    def air(self) -> Air:
        """What stands where as the act has left it by now, and the air there."""
        return Air(self.session, self.home, self.now_s)


@contextmanager
def doing(larder: Larder, ref: ActRef, kind: str) -> Iterator[Doing]:
    """The transaction of one act. ``replayed``: its id is known, ``result`` is what was answered then,
    and nothing is written. At its end all that its changed rows make stale is marked."""

    def begin(session: Any, now_s: int, act_id: str) -> Doing:
        return Doing(session, now_s, act_id, larder=larder)

    with one_act(larder.store, larder.clock, ref, kind, begin) as a:
        yield a
        if not a.replayed:
            a.session.flush()
            follow(a.session, a.air, a.changes)


@cache
def _shape(do: Callable[..., Any]) -> TypeAdapter[Any]:
    return TypeAdapter(get_type_hints(do)["return"])


def act(
    kind: str,
) -> Callable[[Callable[Concatenate[Doing, P], R]], Callable[Concatenate[Larder, ActRef, P], R]]:
    """Makes an act of a function that does it: called with the larder and the act's identity, it is
    done once; the same id again answers what was answered then.

    The function returns a dataclass (``Done`` when there is nothing to tell) and raises to undo all.
    """

    def made(do: Callable[Concatenate[Doing, P], R]) -> Callable[Concatenate[Larder, ActRef, P], R]:
        @wraps(do)
        def once(larder: Larder, ref: ActRef, *args: P.args, **kwargs: P.kwargs) -> R:
            with doing(larder, ref, kind) as a:
                if a.replayed:
                    return _shape(do).validate_python(a.result)  # type: ignore[no-any-return]
                done = do(a, *args, **kwargs)
                a.result = asdict(done)  # type: ignore[call-overload]
                return done

        return once  # type: ignore[return-value]

    return made


def step(
    done: Callable[Concatenate[Larder, ActRef, P], R], *args: P.args, **kwargs: P.kwargs
) -> Callable[[Doing], R]:
    """An act as one step of a larger one: what it does, without a transaction of its own."""
    do = done.__wrapped__  # type: ignore[attr-defined]  # set by wraps in act()
    return lambda a: do(a, *args, **kwargs)


@dataclass(frozen=True)
class Together:
    """What the steps of one act made, in their order."""

    made: list[dict[str, Any]]


def together(
    larder: Larder,
    ref: ActRef,
    kind: str,
    steps: Sequence[Callable[[Doing], Any]],
    said: str = "",
) -> Together:
    """Several acts as one: all of them or none, one line of history, taken back together.

    ``said``: how it is called; without it the steps are called by their own words.
    """
    with doing(larder, ref, kind) as a:
        if a.replayed:
            return Together(**a.result)
        made, words = [], []
        for do in steps:
            made.append(asdict(do(a)))
            words.append(a.summary)
        a.summary = said or "; ".join(words)
        done = Together(made)
        a.result = asdict(done)
        return done

"""What endpoints are given: the larder and the identity of an act."""

from __future__ import annotations

import re
from typing import Annotated, Any

from fastapi import Depends, Header, Request
from pydantic import BaseModel

from ..core.errors import InvalidValue
from ..data.acts import ActRef
from ..services.larder import Larder

ACT_ID = re.compile(r"^[0-9a-fA-F-]{16,40}$")


def get_larder(request: Request) -> Larder:
    """The larder this server was started with."""
    larder = request.app.state.larder
    assert isinstance(larder, Larder), "set when the app is made"
    return larder


def get_act_ref(
    x_act_id: Annotated[
        str | None, Header(description="UUID made by the client: the same act twice is done once")
    ] = None,
    x_person_id: Annotated[int | None, Header(description="Who acts")] = None,
) -> ActRef:
    """Identity of the act of this request. Raises InvalidValue for an id that is none."""
    if x_act_id is None:
        return ActRef(person_id=x_person_id)
    if not ACT_ID.match(x_act_id):
        raise InvalidValue("X-Act-Id", x_act_id, "a UUID")
    return ActRef(id=x_act_id, person_id=x_person_id)


LarderDep = Annotated[Larder, Depends(get_larder)]
ActDep = Annotated[ActRef, Depends(get_act_ref)]


class Answer(BaseModel):
    """What every write answers: the act's id (to take it back with) and what it made."""

    act_id: str
    result: dict[str, Any]


def answer(ref: ActRef, result: dict[str, object]) -> Answer:
    """The answer of a write."""
    return Answer(act_id=ref.id, result=dict(result))

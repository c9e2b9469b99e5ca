"""What endpoints are given: the larder and the identity of an act."""

from __future__ import annotations

import re
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import Depends, Header, Query, Request, Response, UploadFile
from pydantic import BaseModel

from ..core.base.errors import Conflict, InvalidValue
from ..data.acts import ActRef
from ..data.limits import EARLIEST_S, LATEST_S
from ..services.household.home import file_id
from ..services.household.larder import Larder, at_home

# epoch seconds, 1900 to 2200, and other figures of a question
Moment = Annotated[float | None, Query(ge=EARLIEST_S, le=LATEST_S, allow_inf_nan=False)]
Figure = Annotated[float | None, Query(ge=-1e6, le=1e6, allow_inf_nan=False)]
ACT_ID = re.compile(r"^[0-9a-fA-F-]{16,40}$")


def _larder(request: Request) -> Larder:
    larder = request.app.state.larder
    assert isinstance(larder, Larder), "set when the app is made"
    return larder


async def get_larder(request: Request, response: Response) -> Larder:
    """The larder this server was started with; what follows speaks in its household's units, and says which
    act was the last before it was read.

    Not in a thread of its own: what is set there would be lost to the endpoint.
    """
    larder = _larder(request)
    at_home(larder)
    response.headers["X-Larder-Acts"] = str(larder.store.acts())
    return larder


def _same_file(request: Request, file: str | None) -> None:
    if file is None:
        return
    with _larder(request).store.read() as session:
        if file != file_id(session):
            raise Conflict(
                "This page shows another larder than the one that is open now: load it again",
                other=True,
            )


def get_act_ref(
    request: Request,
    x_act_id: Annotated[
        str | None, Header(description="UUID made by the client: the same act twice is done once")
    ] = None,
    x_person_id: Annotated[
        str | None, Header(description="Who acts; somebody unknown here is nobody")
    ] = None,
    x_larder_file: Annotated[
        str | None, Header(description="The file_id that the page was loaded from")
    ] = None,
    x_larder_seen: Annotated[
        str | None, Header(description="X-Larder-Acts of when the form was opened")
    ] = None,
    x_own_acts: Annotated[
        str | None, Header(description="Acts of the same page since, with commas", max_length=4000)
    ] = None,
) -> ActRef:
    """Identity of the act of this request, with what was sent for it. Raises InvalidValue for an id that is
    none, Conflict for a page that was loaded from another household's file."""
    _same_file(request, x_larder_file)
    who = x_person_id or ""
    person = int(who) if re.fullmatch("[0-9]{1,15}", who) else None
    if x_act_id is None:
        return ActRef(person_id=person)
    if not ACT_ID.match(x_act_id):
        raise InvalidValue("X-Act-Id", x_act_id, "a UUID")
    said = getattr(request.state, "said", "")
    last = x_larder_seen or ""
    seen = int(last) if re.fullmatch("[0-9]{1,15}", last) else None
    own = frozenset((x_own_acts or "").split(","))
    return ActRef(id=x_act_id, person_id=person, said=said, seen=seen, own=own)


LarderDep = Annotated[Larder, Depends(get_larder)]
ActDep = Annotated[ActRef, Depends(get_act_ref)]


class Answer(BaseModel):
    """What every write answers: the act's id (to take it back with) and what it made."""

    act_id: str
    result: dict[str, Any]


def file_name(file: UploadFile) -> str:
    """What a file that was sent is called: its last part, writable, of a sensible length."""
    name = (file.filename or "file").replace("\\", "/").rsplit("/", 1)[-1]
    return "".join(c for c in name if c.isprintable())[-120:] or "file"


def answer(ref: ActRef, result: Any) -> Answer:
    """The answer of a write: the dataclass that the service returned."""
    return Answer(act_id=ref.id, result=asdict(result))

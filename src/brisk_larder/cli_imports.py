"""``larder import``: files brought in by command, all of it or nothing."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .cli_base import (
    DataOption,
    KindOption,
    PlaceOption,
    TodayOption,
    clock_of,
    fail,
    open_larder,
    taking_in,
)
from .core.base.errors import BadFile

if TYPE_CHECKING:
    from .services.household.larder import Larder

importing = typer.Typer(help="Bring in a file: all of it or nothing.", no_args_is_help=True)


@contextmanager
def _placed(larder: Larder, name: str | None, kind: str) -> Iterator[int | None]:
    """The place or container of a name; made where it is new, and taken back when what was to come
    into it is refused."""
    from .data.acts import ActRef
    from .services.air.look import looking_at
    from .services.papers import history
    from .services.stock.sheet import place_names
    from .services.storage import containers

    if name is None:
        yield None
        return
    with looking_at(larder) as v:  # by name, path or code, as on the page
        known = place_names(v.session, larder)
    if name.lower() in known:
        yield known[name.lower()]
        return
    ref = ActRef()
    made = containers.add_node(larder, ref, containers.NewNode(name=name, place_kind=kind))
    try:
        yield made.node_id
    except BaseException:
        history.undo(larder, ActRef(), ref.id)
        raise
    typer.echo(f"{name}: a new place of the kind {kind}")


ColumnOption = Annotated[str | None, typer.Option(help="Its number from 1, or its name")]


FLAGS = (
    "By flags: --day-first or --month-first, --unit C or F, --share or --per-cent, and --time, "
    "--temperature, --humidity, --date with a column's number or name"
)


def _answers(
    header: list[str], columns: Mapping[str, str | None], plain: Mapping[str, object]
) -> dict[str, object]:
    """What the flags say of a logger's file. Ends the command for a column that is not there."""
    out = {key: value for key, value in plain.items() if value is not None}
    names = [h.lower() for h in header]
    for key, said in columns.items():
        if said is None:
            continue
        if said.isdecimal() and 1 <= int(said) <= len(header):
            out[key] = int(said) - 1
        elif said.lower() in names:
            out[key] = names.index(said.lower())
        elif key == "humidity" and said.lower() == "none":
            out[key] = -1
        else:
            raise fail(
                f"--{key} {said!r}: the file's columns are 1 to {len(header)}: {', '.join(header)}"
            )
    return out


@importing.command(
    "readings", epilog='Example: larder import readings tin1.csv --place "Tin 1" --tz Europe/London'
)
def import_readings(
    file: Path,
    place: Annotated[str, typer.Option(help="Where it was read")],
    kind: KindOption = "larder",
    tz: Annotated[str | None, typer.Option(help="Zone of times that carry none")] = None,
    good_rows: Annotated[bool, typer.Option("--good-rows", help="Leave bad rows out")] = False,
    month_first: Annotated[
        bool | None, typer.Option("--month-first/--day-first", help="How 07/04 is meant")
    ] = None,
    unit: Annotated[str | None, typer.Option(help="C or F")] = None,
    share: Annotated[
        bool | None, typer.Option("--share/--per-cent", help="How its humidity is given")
    ] = None,
    time: ColumnOption = None,
    temperature: ColumnOption = None,
    humidity: ColumnOption = None,
    date: ColumnOption = None,
    data: DataOption = None,
    today: TodayOption = None,
) -> None:
    """Take in a logger's CSV (time, temperature, humidity). What it leaves open is asked by flags."""
    from .data.acts import ActRef
    from .services.storage import imports

    larder = open_larder(data, clock_of(today))
    with taking_in(file), _placed(larder, place, kind) as node:
        assert node is not None, "a place is required"
        header = imports.preview(larder, node, file, file.name).header
        columns = {"time": time, "temperature": temperature, "humidity": humidity, "date": date}
        plain = {"tz": tz, "month_first": month_first, "unit": unit, "humidity_share": share}
        answers = _answers(header, columns, plain)
        try:
            done = imports.import_file(
                larder, ActRef(), node, file, file.name, answers=answers, partial=good_rows
            )
        except BadFile as error:
            open_ones = any(p["field"] == "header" for p in error.problems)
            raise BadFile(f"{error.message}. {FLAGS}" if open_ones else error.message) from error
    typer.echo(
        f"{file.name}: {done.new_rows} readings taken in for {done.node}, "
        f"{done.known_rows} known already, {done.gaps} gaps of over a day"
        + (f", {done.blanks} rows without a measurement" if done.blanks else "")
        + (f", {done.bad_rows} bad rows left out" if done.bad_rows else "")
        + (f", {done.conflicts} times kept their stored value" if done.conflicts else "")
    )


@importing.command("packets", epilog="Example: larder import packets stock.csv --day-first")
def import_packets(
    file: Path,
    place: PlaceOption = None,
    kind: KindOption = "inner_cupboard",
    month_first: Annotated[
        bool | None, typer.Option("--month-first/--day-first", help="How 07/04/2024 is meant")
    ] = None,
    data: DataOption = None,
    today: TodayOption = None,
) -> None:
    """Bring in a spreadsheet of packets (CSV) as people keep them."""
    from .data.acts import ActRef
    from .services.stock import stock_files

    larder = open_larder(data, clock_of(today))
    with taking_in(file), _placed(larder, place, kind) as node:
        found = file.read_bytes()
        for note in stock_files.before_import(larder, file.name, found, node, month_first):
            typer.echo(f"{file.name}: {note}")
        done = stock_files.import_packets(larder, ActRef(), file.name, found, node, month_first)
    typer.echo(f"{file.name}: {len(done.lot_ids)} packets brought in")
    for note in done.assumed:
        typer.echo(f"  {note}")


@importing.command("parcel", epilog="Example: larder import parcel P-2.json")
def import_parcel(
    file: Path,
    place: PlaceOption = None,
    kind: KindOption = "inner_cupboard",
    data: DataOption = None,
    today: TodayOption = None,
) -> None:
    """Take in a parcel of seed from another household (JSON), with how far it has aged."""
    from .data.acts import ActRef
    from .services.papers import received

    larder = open_larder(data, clock_of(today))
    with taking_in(file), _placed(larder, place, kind) as node:
        done = received.receive(larder, ActRef(), file.name, file.read_bytes(), node)
    typer.echo(f"{file.name}: {len(done.lot_ids)} lots taken in")


@importing.command("everything", epilog="Example: larder import everything everything.json")
def import_everything(file: Path, data: DataOption = None, today: TodayOption = None) -> None:
    """Fill an empty larder from what 'larder export everything' wrote."""
    from .services.papers import everything

    larder = open_larder(data, clock_of(today))
    with taking_in(file):
        rows = everything.restore_everything(larder, file.name, file.read_bytes())
    typer.echo(f"{file.name}: {rows} rows taken in")

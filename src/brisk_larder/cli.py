"""The ``larder`` command: serve, demo, import, want, year, export, backup, restore."""

from __future__ import annotations

import errno
import gc
import json
import os
import socket
import threading
from dataclasses import asdict
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Annotated
from urllib import request
from urllib.error import HTTPError, URLError

import typer

from . import __version__
from .cli_base import (
    OPEN,
    DataOption,
    TodayOption,
    clock_of,
    data_file,
    fail,
    in_words,
    open_larder,
)
from .cli_imports import importing
from .core.base.errors import LarderError

if TYPE_CHECKING:
    from types import FrameType

    from .services.household.larder import Larder

app = typer.Typer(
    help="Brisk Larder: a household's seed stock, from the command line.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)
app.add_typer(importing, name="import")
DEFAULT_PORT = 8437


def _version(asked: bool) -> None:
    if asked:
        typer.echo(f"Brisk Larder {__version__}")
        raise typer.Exit


@app.callback()
def main(
    ctx: typer.Context,
    version: Annotated[
        bool,
        typer.Option("--version", callback=_version, is_eager=True, help="Which release it is"),
    ] = False,
) -> None:
    """Brisk Larder: a household's seed stock, from the command line."""
    ctx.call_on_close(OPEN.close)


def need_port(port: int) -> None:
    """Ends with an explanation when the port is taken."""
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            if error.errno == errno.EACCES:
                raise fail(f"Port {port} needs more rights: choose one above 1024") from None
            raise fail(
                f"Port {port} is taken by another program (or another Brisk Larder). "
                f"Choose another one: --port {port + 1}"
            ) from None


ENDS_WITHIN_S = 3  # after it was told to end


def run_server(larder: Larder, port: int) -> None:
    """Serve on loopback until interrupted."""
    import uvicorn

    from .api.app import make_app

    # what is loaded by now is never garbage: not searching it again saves an eighth of long work
    gc.collect()
    gc.freeze()
    typer.echo(f"Brisk Larder is at http://127.0.0.1:{port} (Ctrl-C ends it)")

    class Server(uvicorn.Server):
        """Ends in time whatever is being reckoned: the file bears being let go in the middle of anything."""

        def handle_exit(self, sig: int, frame: FrameType | None) -> None:
            last = threading.Timer(ENDS_WITHIN_S, os._exit, (0,))
            last.daemon = True
            last.start()
            super().handle_exit(sig, frame)

    config = uvicorn.Config(make_app(larder), host="127.0.0.1", port=port, log_level="warning")
    Server(config).run()


PortOption = Annotated[int, typer.Option(min=1, max=65535, help="Port on 127.0.0.1")]
HostOption = Annotated[str, typer.Option(hidden=True)]


@app.command(epilog="Example: larder serve --port 9000")
def serve(
    data: DataOption = None,
    port: PortOption = DEFAULT_PORT,
    today: TodayOption = None,
    host: HostOption = "127.0.0.1",
) -> None:
    """Serve the household's own larder on 127.0.0.1."""
    if host not in ("127.0.0.1", "localhost"):
        raise fail(
            f"--host {host} is refused: there is no access control yet, so the larder answers to "
            "this machine only"
        )
    need_port(port)
    run_server(open_larder(data, clock_of(today)), port)


@app.command(epilog="Example: larder demo --today 2027-04-24")
def demo(
    port: PortOption = DEFAULT_PORT, data: DataOption = None, today: TodayOption = None
) -> None:
    """Make Pellwick Mill anew, as of today, and serve it. Never touches the household's file."""
    from .demo import build

    need_port(port)  # first of all: a demo that is running keeps its file
    clock = clock_of(today)
    path = data_file(data, f"demo-{port}.sqlite3")
    path.parent.mkdir(parents=True, exist_ok=True)
    typer.echo("Making three years at Pellwick Mill ...")
    try:
        left_out = build(path, clock.now_s())
    except LarderError as error:
        raise fail(error.message) from None
    for what in left_out:
        typer.echo(f"Left out of it: {what}")
    run_server(open_larder(path, clock), port)


@app.command(
    "simulate-logger",
    epilog="Example: larder simulate-logger tin1.csv --days 30 --every-minutes 60",
)
def simulate_logger(
    out: Annotated[Path | None, typer.Argument(help="Write a file instead of sending")] = None,
    token: Annotated[str, typer.Option(help="Send: the token shown when it was registered")] = "",
    port: PortOption = DEFAULT_PORT,
    kind: Annotated[str, typer.Option(help="Kind of place it pretends to stand in")] = "larder",
    days: Annotated[float, typer.Option(min=0.01, max=4000, help="How much past")] = 60.0,
    every_minutes: Annotated[int, typer.Option(min=1, max=720)] = 60,
    batch: Annotated[int, typer.Option(min=1, max=5000, help="Readings in one batch")] = 200,
    drop: Annotated[float, typer.Option(min=0, max=1, help="Chance that a reading is lost")] = 0.0,
    nonsense: Annotated[float, typer.Option(min=0, max=1, help="Chance of a senseless one")] = 0.0,
    repeat: Annotated[
        float, typer.Option(min=0, max=1, help="Chance that a batch comes twice")
    ] = 0.0,
    drift: Annotated[float, typer.Option(help="degC that it drifts in a day")] = 0.0,
    clock_off: Annotated[float, typer.Option(help="Seconds its clock is off at first")] = 0.0,
    seed: int = 1,
    today: TodayOption = None,
) -> None:
    """A stand-in for a recording logger: writes its file, or sends over HTTP as a real one would."""
    from .core.base.units import DAY_S
    from .data.tables import Household
    from .services.air.air import place_curve
    from .services.household.kinds import reference
    from .standins.logger import Faults, Sender, logger_csv, simulate

    if kind not in reference().places:
        raise fail(f"{kind!r} is not a kind of place: {', '.join(reference().places)}")
    if (out is None) == (not token):
        raise fail("Say where to write (OUT), or with which --token to send")
    step_s = 60 * every_minutes
    end_s = clock_of(today).now_s() // step_s * step_s
    curve = place_curve(kind, Household(id=1, name="simulated"))
    record = simulate(curve, end_s - days * DAY_S, end_s, step_s, seed)
    if out is not None:
        with in_words():
            out.write_text(logger_csv(f"simulated-{kind}", *record))
        typer.echo(f"Written to {out}: {len(record[0])} readings")
        return
    sender = Sender(
        partial(post_batch, port, token), seed, Faults(drop, nonsense, repeat, drift, clock_off)
    )
    for rows in sender.batches(*record, batch):
        status = sender.send(float(clock_of(today).now_s()), rows, 80.0)
        if status != 200:
            raise fail(f"The server answered {status}: {sender.last}")
    typer.echo(
        f"sent {sender.sent}: {sender.taken} taken in, {sender.known} known already, "
        f"{sender.refused} refused"
    )


@app.command("merchant", epilog="Example: larder merchant rushbank.json")
def merchant(
    out: Annotated[Path, typer.Argument(help="Where the list is written")],
    name: str = "Rushbank Seeds",
    seed: int = 1,
    today: TodayOption = None,
) -> None:
    """A stand-in for a seed merchant: writes its list of packets, as a real one would send it."""
    from .core.base.units import local_day
    from .services.household.kinds import reference
    from .standins.merchant import merchant_json

    day = local_day(clock_of(today).now_s(), "UTC")
    crops = reference().crops
    kinds = {k: (c.seeds_per_g, c.typical_initial_germination_pct / 100) for k, c in crops.items()}
    with in_words():
        out.write_text(merchant_json(name, kinds, day, seed))
    typer.echo(f"Written to {out}")


@app.command("weather", epilog="Example: larder weather nights.json --today 2027-04-24")
def weather(
    out: Annotated[Path, typer.Argument(help="Where the forecast is written")],
    last_frost: Annotated[str, typer.Option(help="Last frost as month-day")] = "05-09",
    seed: int = 1,
    today: TodayOption = None,
) -> None:
    """A stand-in for a weather service: writes the nights of the next ten days, as it would send them."""
    from datetime import date

    from .core.base.units import local_day
    from .standins.weather import forecast_json

    day = local_day(clock_of(today).now_s(), "UTC")
    try:
        frost = date.fromisoformat(f"{day.year}-{last_frost}")
    except ValueError:
        raise fail(f"{last_frost!r} is no day: give month-day, such as 05-09") from None
    with in_words():
        out.write_text(forecast_json(day, frost, seed))
    typer.echo(f"Written to {out}")


def post_batch(port: int, token: str, body: dict[str, object]) -> tuple[int, dict[str, object]]:
    """Carry one batch to the server on this machine."""
    from .standins.logger import as_json

    asked = request.Request(
        f"http://127.0.0.1:{port}/api/ingest/readings",
        data=as_json(body),
        headers={"Content-Type": "application/json", "Authorization": f"Bearer {token}"},
    )
    try:
        with request.urlopen(asked, timeout=30) as answer:
            return answer.status, json.loads(answer.read())
    except HTTPError as error:
        return error.code, json.loads(error.read() or b"{}")
    except URLError as error:
        raise fail(f"There is no server on port {port}: {error.reason}") from None


@app.command(epilog='Example: larder want "onions, cured and stored" --per-week 1 --weeks 30')
def want(
    food: str,
    per_week: Annotated[float, typer.Option()],
    weeks: Annotated[float, typer.Option()],
    data: DataOption = None,
    today: TodayOption = None,
) -> None:
    """Name a food the household wants ("sauerkraut --per-week 1 --weeks 40")."""
    from .data.acts import ActRef
    from .services.needs import targets
    from .services.needs.products import products

    larder = open_larder(data, clock_of(today))
    try:
        targets.set_target(larder, ActRef(), product=food, per_week=per_week, weeks=weeks)
    except LarderError as error:
        first = (food.lower().split() or ["?"])[0]
        near = [p.name for p in products() if first in p.words]
        hint = f" Known: {'; '.join(near[:6])}" if near else ""
        raise fail(error.message + hint) from None
    typer.echo(f"{food}: {per_week:g} a week for {weeks:g} weeks")


@app.command(epilog="Example: larder year --json")
def year(
    data: DataOption = None,
    today: TodayOption = None,
    as_json: Annotated[bool, typer.Option("--json", help="For programs")] = False,
) -> None:
    """This year's list: tests, regrowing, shortfalls, each with its reason."""
    from .services.today import this_years_list

    found = this_years_list.year_of(open_larder(data, clock_of(today), only_look=True))
    typer.echo(
        json.dumps(asdict(found), indent=1) if as_json else this_years_list.short_words(found)
    )


# what is taken out, by the module that makes it: one that reckons nothing waits for no compiler
EXPORTS = {
    "stock": ("stock.stock_table", "stock_csv"),
    "lots": ("papers.csv_files", "lots_csv"),
    "readings": ("papers.readings_file", "readings_csv"),
    "everything": ("papers.everything", "everything_json"),
}


@app.command(epilog="Example: larder export stock -o stock.csv")
def export(
    what: Annotated[str, typer.Argument(help="stock, lots, readings or everything")],
    out: Annotated[Path | None, typer.Option("--out", "-o", help="File (default: print)")] = None,
    data: DataOption = None,
    today: TodayOption = None,
) -> None:
    """Take out stock, lots or readings as CSV, or everything as JSON."""
    maker = EXPORTS.get(what)
    if maker is None:
        raise fail(f"{what!r} is not known: stock, lots, readings or everything")
    room, name = maker
    text = getattr(import_module(f".services.{room}", __package__), name)(
        open_larder(data, clock_of(today), only_look=True)
    )
    if out is None:
        typer.echo(text, nl=False)
        return
    with in_words():
        out.write_text(text, encoding="utf-8", newline="")
    typer.echo(f"Written to {out}")


@app.command(epilog="Example: larder backup ~/seed-2026-11.sqlite3")
def backup(target: Path, data: DataOption = None) -> None:
    """Copy the household's file, also while the server runs; the copy is opened and checked."""
    from .data.files import copy_database

    source = data_file(data)
    if not source.exists():
        raise fail(f"There is no household file at {source}")
    if target.is_dir():
        raise fail(f"{target} is a folder: name a file in it")
    if target.exists():
        raise fail(f"{target} is there already: choose another name")
    with in_words():
        copy_database(source, target)
    typer.echo(f"Backed up to {target}")


@app.command(epilog="Example: larder restore ~/seed-2026-11.sqlite3")
def restore(source: Path, data: DataOption = None) -> None:
    """Put a backup in the place of the household's file; the present one is kept beside it.

    Refused while the file is open in a larder that is running.
    """
    from .data.files import restore as put_back

    with in_words():
        kept = put_back(source, data_file(data))
    if kept is not None:
        typer.echo(f"The present file is kept as {kept}")
    typer.echo(f"Restored from {source}")


if __name__ == "__main__":
    app()

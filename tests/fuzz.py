"""Requests nobody would send on purpose: every path of the interface, with odd values in every place.

``python -m tests.fuzz --requests 20000 --seed 1``. Ends with an error at the first unforeseen one, or
when a room no longer answers afterwards.
"""

import copy
import json
import logging
import re
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path
from random import Random

from fastapi.testclient import TestClient

from brisk_larder.api.app import make_app
from brisk_larder.clock import MovedClock
from brisk_larder.data.acts import ActRef
from brisk_larder.data.store import Store
from brisk_larder.services.acts import entry
from brisk_larder.services.acts.new_seeds import NewSeeds
from brisk_larder.services.forecast.rebuild import ensure_model_rev
from brisk_larder.services.household import home
from brisk_larder.services.household.larder import Larder
from brisk_larder.services.needs import chains, targets
from brisk_larder.services.storage import containers
from tests.writes import There, all_writes

NOW = 1_795_507_200
ROOMS = (
    "household", "today", "counts", "ribbon", "year", "stock/rows", "stock/lots", "storage/shelves",
    "storage/alarms", "storage/round", "tests", "needs", "growing", "saving", "acts", "kinds",
    "stock/views", "stock/gaps", "stock/triage", "stock/stocktakes", "papers/parcels",
    "storage/devices", "storage/best-use", "papers/readings.csv",
)  # fmt: skip
NUMBERS = (
    "0", "-1", "1", "1e-320", "5e-324", "1e308", "-1e308", "1e999", "NaN", "Infinity", "-Infinity",
    "9007199254740993", "9223372036854775807", "9223372036854775808", "-9223372036854775809",
    "1234567890123456789", "0.1", "12.5", "1795507200", "-62135596800", "253402300800", "1e15",
    "4102444800", "99999", "100", "2026", "9" * 400,
)  # fmt: skip
TEXTS = (
    "", " ", "²", "٣", "𝟙", "1²", "\ud800", "a\udfffb", "\x00", "a\x00b", "x" * 121, "x" * 400,
    "x" * 20_001, "'; DROP TABLE lot; --", "<script>alert(1)</script>", "=1+1", "\uff1d1", "🌱" * 50,
    "\u202eabc", "%s%n", "../../etc/passwd", "America", "Europe/London", "Z" * 300, "UTC", "NaN",
    "inf", "1e999", "9" * 19, "9" * 400, "half left", "120", "3.5 g", "2021, 2022", "31.02.2026",
    "2026-13-45", "Sep 2024", "0000-00-00", "kale", "own:x", "C", "\n\r\t", "K1", "P1", "a,b;c",
    "1/0", "0 g", "-3", "1e5 packets", "a pinch", "~", "north", "tin", "\u0130", "ẞ" * 130,
)  # fmt: skip
HEADERS = (
    {}, {}, {}, {}, {"x-person-id": "1"}, {"x-person-id": "99"}, {"x-person-id": "²"},
    {"x-person-id": "9" * 60}, {"x-act-id": "x"}, {"x-act-id": "7" * 36}, {"host": "["},
    {"host": "127.0.0.1:["}, {"origin": "http://["}, {"origin": "null"}, {"host": ""},
    {"x-larder-file": "another"}, {"content-type": "text/plain"}, {"content-type": "application/xml"},
    {"accept-encoding": "\x7f"}, {"content-length": "²".encode().decode("latin-1")},
    {"authorization": "Bearer \x7f"}, {"range": "bytes=9-3"},
)  # fmt: skip
PATHS = (
    "/%00", "/a%00b", "/" + "x" * 4000, "/..%2f..%2fetc/passwd", "/assets/%00", "/%ff%fe", "//",
    "/stock/%ed%a0%80", "/api", "/api/", "/assets/", "/assets/" + "y" * 300, "/docs%00", "/openapi.json",
    "/assets/..%2f..%2findex.html", "/%2e%2e/", "/" + "a/" * 400,
)  # fmt: skip


class Fuzz:
    """One household under fire."""

    def __init__(self, folder: Path, seed: int) -> None:
        self.dice = Random(seed)
        self.larder = Larder(Store(folder / "larder.sqlite3"), MovedClock(NOW))
        ensure_model_rev(self.larder.store)
        home.ensure_household(self.larder, "Pellwick Mill", "Europe/London")
        place = containers.NewNode("larder", place_kind="larder")
        containers.add_node(self.larder, ActRef(), place)
        tin = containers.NewNode("tin", container_kind="metal_tin_plain", parent_id=1)
        containers.add_node(self.larder, ActRef(), tin)
        pile = [
            NewSeeds(kind=k, quantity="300", year=2024, kept_line=k == "kale")
            for k in ("kale", "onion")
        ]
        entry.add_seeds(self.larder, ActRef(), pile)
        self.app = make_app(self.larder)
        self.client = TestClient(
            self.app, base_url="http://127.0.0.1", raise_server_exceptions=False
        )
        self.spec = self.app.openapi()
        self.calls = [
            (method, path, told)
            for path, methods in self.spec["paths"].items()
            for method, told in methods.items()
        ]
        self.counts: dict[int, int] = {}
        last_year = chains.target_year(self.larder) - 1
        food = {"product": "sauerkraut", "per_week": 1, "weeks": 20, "year": last_year}
        targets.set_target(self.larder, ActRef(), **food)
        self.there = There(self.larder, self.dice)
        self.turn = 0
        self.meant: dict[str, list[int]] = {}  # of each write that means something: asked, taken

    def schema(self, told):
        while "$ref" in told:
            told = self.spec["components"]["schemas"][told["$ref"].rsplit("/", 1)[1]]
        return told

    def raw(self, told, depth=0) -> str:
        """A JSON text for a schema: mostly fitting, often odd somewhere."""
        told = self.schema(told)
        d = self.dice
        if depth > 6 or d.random() < 0.04:
            return d.choice(("null", "[]", "{}", '"x"', "0", "true", "[" * 60 + "]" * 60))
        if options := told.get("anyOf") or told.get("oneOf"):
            return self.raw(d.choice(options), depth + 1)
        if "const" in told:
            return json.dumps(told["const"])
        if "enum" in told and d.random() < 0.8:
            return json.dumps(d.choice(told["enum"]))
        kind = told.get("type")
        if kind == "object":
            fields = told.get("properties", {})
            if not fields:
                keys = (
                    "1",
                    "2",
                    "name",
                    "tz",
                    "sow_level",
                    "time",
                    "temperature",
                    "unit",
                    "²",
                    "confidence",
                    "temperature_unit",
                    "last_frost_day",
                    "year_starts_month",
                    "hemisphere",
                    "page_size",
                )
                fields = {
                    k: {"anyOf": [{"type": "string"}, {"type": "number"}]}
                    for k in d.sample(keys, 2)
                }
                told = {"required": list(fields)}
            needed = told.get("required", [])
            inner = [
                f"{json.dumps(k)}: {self.raw(v, depth + 1)}"
                for k, v in fields.items()
                if d.random() < (0.97 if k in needed else 0.35)
            ]
            return "{" + ", ".join(inner) + "}"
        if kind == "array":
            item = told.get("items", {})
            return (
                "["
                + ", ".join(self.raw(item, depth + 1) for _ in range(d.choice((0, 1, 1, 2, 5))))
                + "]"
            )
        if kind in ("integer", "number"):
            return d.choice(NUMBERS) if d.random() < 0.5 else str(d.choice((1, 2, 3, 5, 20, NOW)))
        if kind == "boolean":
            return d.choice(("true", "false"))
        return json.dumps(d.choice(TEXTS)) if d.random() < 0.7 else json.dumps(self.known_word())

    def known_word(self) -> str:
        return self.dice.choice(
            ("counted", "given", "seed", "food", "found", "missing", "opened", "sealed", "vented", "wet",
             "done", "dropped", "moved", "handed_over", "kale, frozen", "plants", "larder", "attic",
             "metal_tin_plain", "silica_gel", "cool_upland", "season", "keep", "let_go", "forecast",
             "paper", "indoors", "outdoors", "joy", "put_up", "kale", "seeds_per_g")
        )  # fmt: skip

    def ident(self) -> str:
        d = self.dice
        if d.random() < 0.75:
            return str(d.choice((1, 1, 2, 3)))
        return d.choice((*NUMBERS, "²", "%00", "x", "-0", "1.5", "%ed%a0%80", NOW))  # type: ignore[arg-type]

    def mean(self) -> None:
        """The next write that means something, of what is there; now and then with one value odd."""
        d = self.dice
        writes = all_writes(self.there)
        method, url, body = writes[self.turn % len(writes)]
        if url == "/api/jobs":
            jobs = self.client.get("/api/today").json()
            body["origin_key"] = d.choice([*jobs["jobs"], *jobs["later"]] or [{"origin_key": ""}])[
                "origin_key"
            ]
        self.turn += 1
        odd = body and d.random() < 0.15
        if odd:
            body = copy.deepcopy(body)
            inner = d.choice(body) if isinstance(body, list) else body
            inner[d.choice(list(inner))] = d.choice((*TEXTS, None, -1, 1e308, 0, [], {}))
        if url.endswith(("/out", "/back")):
            self.larder.clock.at_s += 7200
        answer = self.client.request(
            method,
            url,
            content=None if body is None else json.dumps(body).encode(),
            headers={"content-type": "application/json"},
        )
        self.judge(method, url, answer, body)
        if not odd:
            name = f"{method} {re.sub('[0-9]+', 'N', url)}"
            asked = self.meant.setdefault(name, [0, 0])
            asked[0] += 1
            asked[1] += answer.is_success

    def send(self) -> None:
        d = self.dice
        if d.random() < 0.4:
            self.mean()
            return
        headers = {k.encode(): v.encode("latin-1", "replace") for k, v in d.choice(HEADERS).items()}
        if d.random() < 0.04:
            self.look("GET", d.choice(PATHS), headers, None)
            return
        method, path, told = d.choice(self.calls)
        query = []
        for parameter in told.get("parameters", []):
            name = parameter["name"]
            if parameter["in"] == "path":
                path = path.replace("{" + name + "}", str(self.ident()))
            elif parameter["in"] == "query" and d.random() < 0.7:
                query.append(
                    f"{name}={d.choice((*NUMBERS, '1', '2', 'nan', 'inf', '%00', 'x', '%ed%a0%80'))}"
                )
        url = path + ("?" + "&".join(query) if query else "")
        body = told.get("requestBody", {}).get("content", {})
        if "multipart/form-data" in body:
            self.file(method, url, headers)
            return
        content = None
        if body:
            headers.setdefault(b"content-type", b"application/json")
            text = self.raw(body["application/json"]["schema"])
            content = text.encode("utf-8", "surrogatepass")
            if d.random() < 0.02:
                content = d.choice((b"", b"{", b"\xff\xfe", b"[" * 5000, b"nul", b'{"a":1}' * 2))
        self.look(method.upper(), url, headers, content)

    def file(self, method: str, url: str, headers: dict) -> None:
        d = self.dice
        data = d.choice(
            (b"", b"time,temperature_c\n2026-01-01 10:00,12\n", b"\x00" * 50, b"kind,name\npea,M\n",
             b"time,temp\nnan,inf\n", b"{" * 4000, b'{"format": "brisk-larder-parcel", "version": 1}',
             b"time;t\n1e999;9\n", "kind,quantity\nkale,²\n".encode(), b"\xff\xfe\x00",
             b"kind\n" + b"x" * 999,
             b"a,b\n\"unclosed\n", b"[" * 3000 + b"]" * 3000)
        )  # fmt: skip
        headers.pop(b"content-type", None)
        name = d.choice(("log.csv", "", "x" * 300, "../../a.csv", "a\u202eb.csv", "²"))
        answer = self.client.request(
            method.upper(),
            url,
            files={"file": (name, data)},
            headers=headers,
            follow_redirects=False,
        )
        self.judge(method, url, answer, data)

    def look(self, method: str, url: str, headers: dict, content: bytes | None) -> None:
        if b"content-length" in headers and content is None:
            headers = {**headers, b"content-length": b"\xb2"}
        answer = self.client.request(
            method, url, content=content, headers=headers, follow_redirects=False
        )
        self.judge(method, url, answer, content)

    def judge(self, method: str, url: str, answer, sent) -> None:
        self.counts[answer.status_code] = self.counts.get(answer.status_code, 0) + 1
        assert answer.status_code not in (500, 503) or "Not built" in answer.text, (
            f"{method} {url[:300]}: {answer.status_code} {answer.text[:200]}\nsent: {sent!r:.1500}"
        )

    def rooms_answer(self) -> None:
        for room in ROOMS:
            answer = self.client.get(f"/api/{room}")
            assert answer.status_code == 200, f"{room}: {answer.text[:300]}"

    def close(self) -> None:
        self.client.close()
        self.app.state.brought.close()
        self.larder.store.close()


@dataclass
class Fired:
    """How often each status was answered; of each write that means something: asked and taken."""

    counts: dict[int, int]
    meant: dict[str, list[int]]


def fire(folder: Path, seed: int, requests: int, every: int = 500) -> Fired:
    """So many requests, the rooms looked at again and again."""
    fuzz = Fuzz(folder, seed)
    faults: list[logging.LogRecord] = []
    handler = logging.Handler()
    handler.emit = faults.append  # type: ignore[method-assign]
    logging.getLogger("brisk_larder").addHandler(handler)
    try:
        for i in range(requests):
            fuzz.send()
            assert not faults, faults[0].getMessage()
            if (i + 1) % every == 0:
                fuzz.rooms_answer()
                assert not faults, faults[0].getMessage()
        fuzz.rooms_answer()
        return Fired(fuzz.counts, fuzz.meant)
    except Exception as error:
        error.add_note(f"seed {seed}, after {sum(fuzz.counts.values())} requests; {faults[:1]}")
        if faults:
            error.add_note(faults[0].getMessage())
        raise
    finally:
        logging.getLogger("brisk_larder").removeHandler(handler)
        fuzz.close()


def main() -> None:
    told = dict(zip(sys.argv[1::2], sys.argv[2::2], strict=True))
    requests, seed = int(told.get("--requests", 20_000)), int(told.get("--seed", 1))
    with tempfile.TemporaryDirectory() as folder:
        found = fire(Path(folder), seed, requests)
    asked, taken = (sum(x[i] for x in found.meant.values()) for i in (0, 1))
    never = [name for name, (_, n) in found.meant.items() if not n]
    told = {
        "seed": seed,
        "requests": requests,
        "answers": found.counts,
        "meant": asked,
        "taken": taken,
    }
    sys.stdout.write(json.dumps(told | {"never taken": never}) + "\n")


if __name__ == "__main__":
    main()

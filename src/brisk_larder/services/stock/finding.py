"""Find by any word, code, place, crop, note or person, spelled badly: full text, then likeness.

A trigram index (SQLite FTS5, in memory) brings candidates; rapidfuzz ranks them by how like their
words are to what was typed. The answer says where to put your hand.
"""

from __future__ import annotations

import re
import sqlite3
import threading
from collections import Counter
from dataclasses import dataclass
from weakref import WeakKeyDictionary

from rapidfuzz import fuzz, process
from sqlmodel import Session

from ...data.store import Store
from ..air.air import Air
from ..air.look import looking_at
from ..air.paths import node_path
from ..household.kinds import load_kinds, reference
from ..household.larder import Larder, household
from ..household.wording import many

CANDIDATES, MOST = 150, 12
LIKE_ENOUGH = 72.0  # likeness of a typed word to one of the record's (0-100)
WORD = re.compile(r"[\w'-]+")
WEIGHTS = {"code": 1.3, "name": 1.15, "where": 0.95, "more": 0.85}


@dataclass(frozen=True)
class Hit:
    """One find: what it is, where to put your hand, and which word of it was meant."""

    what: str
    row_id: int
    code: str
    title: str
    where: str
    state: str
    meant: str
    score: float


@dataclass(frozen=True)
class _Doc:
    what: str
    row_id: int
    code: str
    title: str
    where: str
    state: str
    words: dict[str, tuple[str, ...]]

    @property
    def text(self) -> str:
        return " ".join(w for words in self.words.values() for w in words)


def _words(text: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(w.lower() for w in WORD.findall(text)))


class Finder:
    """The index of one file; follows it by comparing what each record says."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._db = sqlite3.connect(":memory:", check_same_thread=False)
        self._db.execute("CREATE VIRTUAL TABLE doc USING fts5(words, tokenize = 'trigram')")
        self._docs: dict[int, _Doc] = {}
        self._words: dict[str, list[int]] = {}
        self._version: int | None = None

    def find(self, larder: Larder, text: str, most: int = MOST) -> list[Hit]:
        """The likeliest records for what was typed, best first; empty for nothing."""
        asked = [w.lower() for w in WORD.findall(text)][:8]
        if not asked:
            return []
        with self._lock:
            self._follow(larder)
            ids = self._candidates(asked)
            scored = [(self._score(self._docs[i], asked), i) for i in ids]
        hits: list[Hit] = []
        for (score, meant), i in sorted(scored, key=lambda s: (-s[0][0], s[1])):
            if score <= 0 or len(hits) >= most:
                break
            d = self._docs[i]
            hits.append(
                Hit(
                    what=d.what,
                    row_id=d.row_id,
                    code=d.code,
                    title=d.title,
                    where=d.where,
                    state=d.state,
                    meant=meant,
                    score=round(score, 1),
                )
            )
        return hits

    def _follow(self, larder: Larder) -> None:
        version = larder.store.version()
        if version == self._version:
            return
        with looking_at(larder) as v:
            new = _documents(v.session, larder)
        for i in self._docs.keys() - new.keys():
            self._db.execute("DELETE FROM doc WHERE rowid = ?", (i,))
        for i, doc in new.items():
            old = self._docs.get(i)
            if old is None or old.words != doc.words:
                self._db.execute(
                    "INSERT OR REPLACE INTO doc (rowid, words) VALUES (?, ?)", (i, doc.text)
                )
        self._docs, self._version = new, version
        self._words = {}
        for i, doc in new.items():
            for words in doc.words.values():
                for word in words:
                    self._words.setdefault(word, []).append(i)

    def _candidates(self, asked: list[str]) -> list[int]:
        grams = {w[j : j + 3] for w in asked for j in range(len(w) - 2)}
        found: list[int] = []
        if grams:
            query = " OR ".join('"' + g.replace('"', '""') + '"' for g in sorted(grams))
            found = [
                row[0]
                for row in self._db.execute(
                    "SELECT rowid FROM doc WHERE doc MATCH ? ORDER BY bm25(doc) LIMIT ?",
                    (query, CANDIDATES),
                )
            ]
        short = {w for w in asked if len(w) < 4}
        if short:  # codes, and words too short for a trigram
            have = set(found)
            found += [
                i
                for i, d in self._docs.items()
                if i not in have
                and (d.code.lower() in short or any(s in d.words["name"] for s in short))
            ]
        if len(found) < MOST:  # so misspelled that no three letters in a row are right
            for word in asked:
                for like, _, _ in process.extract(
                    word, list(self._words), scorer=fuzz.ratio, score_cutoff=LIKE_ENOUGH, limit=20
                ):
                    found += self._words[like]
        return list(dict.fromkeys(found))

    @staticmethod
    def _score(doc: _Doc, asked: list[str]) -> tuple[float, str]:
        total, meant = 0.0, []
        for word in asked:
            best, said = 0.0, ""
            for field, words in doc.words.items():
                if not words:
                    continue
                if field == "code":
                    score, like = (100.0, doc.code) if word == words[0] else (0.0, "")
                else:
                    like, score, _ = process.extractOne(word, words, scorer=_likeness)
                # what is not like enough is no find, in however weighty a field
                if score >= LIKE_ENOUGH and score * WEIGHTS[field] > best:
                    best, said = score * WEIGHTS[field], like
            if best <= 0.0:
                return 0.0, ""
            total += best
            meant.append(said)
        return total / len(asked), " ".join(dict.fromkeys(meant))


def _likeness(a: str, b: str, **_: object) -> float:
    """Likeness of two words: whole, or the beginning where only that was typed."""
    whole = float(fuzz.ratio(a, b))
    if len(a) >= 3 and len(b) > len(a):
        whole = max(whole, 0.97 * float(fuzz.ratio(a, b[: len(a)])))
    return whole


_FINDERS: WeakKeyDictionary[Store, Finder] = WeakKeyDictionary()


def find(larder: Larder, text: str, most: int = MOST) -> list[Hit]:
    """Find lots and places by whatever was typed."""
    return _FINDERS.setdefault(larder.store, Finder()).find(larder, text, most)


STATE_WORDS = {
    "fetched": "fetched, not put back",
    "missing": "could not be found",
    "gone": "let go",
}


def _documents(session: Session, larder: Larder) -> dict[int, _Doc]:
    # long: a table, one kind of thing that can be found after the other
    home = household(session)
    air, kinds = Air(session, home, larder.now_s()), load_kinds(session)
    others = {key: name.other_names.replace(";", " ") for key, name in reference().names.items()}
    paths = {n: node_path(air, n) for n in air.nodes}
    out: dict[int, _Doc] = {}
    run = session.connection().exec_driver_sql
    seen: set[int] = set()
    for row in run(
        "SELECT lot.id, lot.code, lot.note, lot.tags, lot.state, lot.intended_use, variety.name, "
        "variety.crop, cohort.description, cohort.person_from, cohort.seller, cohort.source, "
        "cohort.record_from_s, part.to_s FROM lot JOIN part ON part.lot_id = lot.id "
        "JOIN cohort ON cohort.id = part.cohort_id JOIN variety ON variety.id = cohort.variety_id "
        "WHERE lot.deleted_s IS NULL AND part.deleted_s IS NULL "
        "ORDER BY part.to_s IS NULL DESC, part.share_mean DESC"
    ):
        (lot, code, note, tags, state, use, variety, crop, said, person, seller, source, *_) = row
        if lot in seen:
            continue
        seen.add(lot)
        kind = kinds.get(crop)
        stays = air.lot_stays.get(lot, [])
        stay = stays[-1] if stays and stays[-1].to_s is None else None
        where = paths.get(stay.parent_node_id, "") if stay else ""
        place = where
        if stay and (stay.section or stay.slot):
            place += ", " + " ".join(filter(None, [stay.section, stay.slot]))
        out[2 * lot] = _Doc(
            "seed",
            lot,
            code,
            f"{variety} · {kind.name}",
            place or "no place named",
            STATE_WORDS.get(state, ""),
            {
                "code": (code.lower(),),
                "name": _words(f"{variety} {kind.name} {others.get(kind.key, '')} {kind.key}"),
                "where": _words(where),
                "more": _words(f"{note} {tags} {said} {person} {seller} {source} {use}"),
            },
        )
    open_stays = (s[-1] for s in air.lot_stays.values() if s[-1].to_s is None)
    inside = Counter(stay.parent_node_id for stay in open_stays)
    for node in air.nodes.values():
        if node.deleted_s is None:
            held = inside[node.id]
            out[2 * node.id + 1] = _Doc(
                "place",
                node.id,
                node.code,
                node.name,
                paths[node.id],
                f"{many(held, 'packet')} in it" if held else "",
                {
                    "code": (node.code.lower(),),
                    "name": _words(node.name),
                    "where": _words(paths[node.id]),
                    "more": (),
                },
            )
    return out

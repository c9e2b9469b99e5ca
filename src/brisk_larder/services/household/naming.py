"""The kind that a word on a packet means: names and aliases of the tables, plurals, near misses."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass
from functools import lru_cache

from rapidfuzz import fuzz, process

from ...core.seed.pieces import without_form
from .kinds import UNKNOWN, Kinds, reference

LEAST_TYPED = 3  # letters that are taken for the beginning of a name
SURE_SCORE, NEAR_SCORE = 84, 55  # of 100: taken without a question; worth a question


@dataclass(frozen=True)
class Candidate:
    """A kind that a word may mean. how: same (that is its name), near (written much like it) or stand_in
    (another plant, reckoned like this one); ``called``: the name that was matched."""

    key: str
    name: str
    how: str
    called: str


def plain(word: str) -> str:
    """A word without case, accents, hyphens or doubled spaces."""
    bare = unicodedata.normalize("NFKD", word.strip().lower())
    kept = "".join(c for c in bare if not unicodedata.combining(c))
    return " ".join(kept.replace("-", " ").replace("\u2019", "'").split())


def _singulars(word: str) -> list[str]:
    """The word, and what it may be the plural of."""
    out = [word]
    if word.endswith("ies"):
        out.append(word[:-3] + "y")
    if word.endswith(("oes", "shes", "ches", "sses")):
        out.append(word[:-2])
    if word.endswith("ves"):
        out.append(word[:-3] + "f")
    if word.endswith("s"):
        out.append(word[:-1])
    return out


@lru_cache(maxsize=1)
def _table() -> dict[str, tuple[str, str]]:
    """Every name and alias of the tables: (key, same or stand_in)."""
    ref, out = reference(), dict[str, tuple[str, str]]()
    for key, row in ref.names.items():
        for name in (row.name, key.replace("_", " "), *filter(None, row.other_names.split(";"))):
            out.setdefault(plain(name), (key, "same"))
    for key, piece in ref.pieces.items():
        out.setdefault(plain(piece.name), (key, "same"))
    for alias in ref.aliases:
        for name in alias.names.split(";"):
            out.setdefault(plain(name), (alias.crop, alias.match))
    for types in ref.types.values():
        for one in types:
            out.setdefault(plain(one.name), (one.crop, "same"))
    return out


def _words(kinds: Kinds) -> dict[str, tuple[str, str]]:
    own = {
        plain(kind.name): (key, "same")
        for key, kind in kinds.by_key.items()
        if key != UNKNOWN and not kind.known
    }
    return {**_table(), **own}


def is_name(word: str) -> bool:
    """Whether a word is the whole name of a kind of the tables."""
    return any(form in _table() for form in _singulars(plain(word)))


def candidates(word: str, kinds: Kinds, most: int = 3) -> list[Candidate]:
    """The likeliest kinds for a word, the best first; a name of the tables stands alone."""
    wanted, words = plain(without_form(word, form_words())), _words(kinds)
    if not wanted:
        return []

    def one(called: str, how: str = "") -> Candidate:
        key, match = words[called]
        return Candidate(key, kinds.get(key).name, how or match, called)

    for form in _singulars(wanted):
        if form in words:
            return [one(form)]
    # the last word names the plant: "early purple carrot", "cherry tomato mix"
    tail = [w for w in wanted.split() if len(w) > 2]
    inside = [form for w in reversed(tail) for form in _singulars(w) if form in words]
    near = process.extract(
        wanted, list(words), scorer=fuzz.WRatio, score_cutoff=NEAR_SCORE, limit=12
    )
    out: dict[str, Candidate] = {}
    for called in [*inside, *(name for name, _, _ in near)]:
        found = one(called, "near" if words[called][1] == "same" else "stand_in")
        out.setdefault(found.key, found)
    return list(out.values())[:most]


def _begun(wanted: str, kinds: Kinds) -> str | None:
    """The kind whose name begins so, or one of its words: what a few typed letters mean."""
    if len(wanted) < LEAST_TYPED:
        return None
    named = [(plain(k.name), key) for key, k in kinds.by_key.items() if key != UNKNOWN]
    starts = [x for x in named if x[0].startswith(wanted)]
    inside = [x for x in named if any(w.startswith(wanted) for w in x[0].split())]
    best = min(starts or inside, key=lambda x: (len(x[0]), x[0]), default=None)
    return best[1] if best else None


def _typed(wanted: str, same: dict[str, str]) -> str | None:
    """The kind of a name with one of its types before it: butterhead lettuce."""
    words = wanted.split()
    for i in range(1, len(words)):
        for form in _singulars(" ".join(words[i:])):
            crop = same.get(form)
            types = reference().types.get(crop or "", ())
            if " ".join(words[:i]) in {plain(w) for t in types for w in t.words}:
                return crop
    return None


def guess_kind(text: str, kinds: Kinds) -> str | None:
    """The kind that a word on a packet means without a question, with or without the word for what is set of
    it (onion sets); None when it has to be asked."""
    bare = without_form(text, form_words())
    return _guess(text, kinds) if bare == text else _named(text, kinds) or _guess(bare, kinds)


@lru_cache(maxsize=1)
def form_words() -> tuple[str, ...]:
    """All words for what is set: tubers, sets, slips."""
    return tuple(word for form in reference().forms.values() for word in form.called)


def _named(text: str, kinds: Kinds) -> str | None:
    words = _words(kinds)
    found = (words[w] for w in _singulars(plain(text)) if w in words)
    return next((key for key, match in found if match == "same"), None)


def _guess(text: str, kinds: Kinds) -> str | None:
    wanted, words = plain(text), _words(kinds)
    if not wanted:
        return None
    same = {name: key for name, (key, match) in words.items() if match == "same"}
    for form in _singulars(wanted):
        if form in same:
            return same[form]
        if form in words:
            return None  # another plant, of which one is asked whether it may stand in
    begun = _begun(wanted, kinds) or _typed(wanted, same)
    if begun is not None:
        return begun
    found = process.extractOne(
        wanted, list(same), scorer=fuzz.token_sort_ratio, score_cutoff=SURE_SCORE
    )
    return same[found[0]] if found else None

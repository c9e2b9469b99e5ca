"""Short words for the codes that pages show: one home for them, asked once by the page.

Sentences with figures in them stand in ``wording`` and in the rooms.
"""

from __future__ import annotations

AIR_SOURCE = {
    "logged": "logger",
    "bridged": "read now and then",
    "usual": "not read: a guess",
}
AIR_THEN = {"logged": "logger", "bridged": "between readings", "usual": "not read: a guess"}
CLOSING = {
    "airtight": "closed",
    "sealed": "sealed",
    "vented": "lid ajar",
    "breathing": "standing open",
    "desiccant": "a desiccant inside",
}
CLOSING_SHORT = {"vented": "ajar", "breathing": "open", "desiccant": "desiccant in"}
EVENT = {
    "opened": "opened",
    "sealed": "sealed",
    "gone_through": "gone through",
    "wet": "got wet",
    "cleaned": "cleaned",
    "airtight": "closed",
    "vented": "ajar",
    "breathing": "left open",
    "desiccant": "desiccant in",
    "desiccant_out": "desiccant out",
    "note": "note",
}
DESICCANT = {
    "silica_gel": "silica gel",
    "zeolite_beads": "zeolite beads",
    "dried_rice": "oven-dried rice",
}
ORIGIN = {
    "own": "your own record",
    "book": "the book",
    "guess": "a guess",
    "set": "your own number",
    "sum": "worked out from the links before it",
}
CHAIN_LINK = {
    "wanted": "wanted",
    "pantry": "on the shelf",
    "to_put_up": "to put up",
    "fresh_kg": "fresh produce",
    "plants": "plants",
}
JOB_STATE = {"in_progress": "in progress", "moved": "moved", "handed_over": "handed over"}
RIBBON = {
    "test": "tests to start",
    "sow": "sowing opens",
    "order": "order by",
    "regrow": "regrow",
}
SEED_IN_TEST = {
    "abnormal": "misshapen",
    "mouldy": "mouldy",
    "hard": "hard, not swollen",
    "fresh": "swollen, firm, not grown",
    "empty": "empty",
    "gone": "went missing",
}
UNTESTED = {
    "certainly_good": "surely good enough",
    "certainly_poor": "surely poor: sow thickly or replace",
    "unused": "no food, pick or line asks for it",
    "not_worth": "a test would seldom change what you do",
    "still_holds": "the last test still holds",
    "too_few_seeds": "too few seeds to spend",
    "too_late": "too late before their sowing",
    "known_enough": "known well enough for this sowing",
    "running": "on the bench",
    "sibling": "a test of the same seed settles it",
    "undecided": "another rule of yours goes first",
    "routine": "another rule of yours goes first",
    "uncounted": "to be counted first",
    "unnamed": "nobody knows its kind",
    "pieces": "set as it is, not sown",
    "wet": "to be dried first",
    "table": "meant for the table",
    "dead": "dead",
    "spoilt": "spoilt",
    "empty": "nothing left",
}
FOLLOWS = {
    "keep": "Keep",
    "sow_thick": "Sow thick",
    "test": "Test",
    "regrow": "Regrow first",
    "shoots": "Use as shoots",
    "food": "Use as food",
    "give": "Give away",
    "let_go": "Let go",
    "name": "Say what it is",
    "count": "Count first",
    "wait": "Wait",
    "dry": "Dry first",
    "find_again": "Find seed of it again",
    "set": "Set it",
    "look_over": "Look it over",
}
OPINION = {"good": "good", "doubtful": "doubtful", "poor": "over", "none": "none"}
FOUND = {
    "found": "there",
    "counted": "counted",
    "missing": "not here",
    "moved": "moved here",
}
LOT_STATE = {"fetched": "fetched, not put back", "missing": "could not be found"}
GROUPING = {
    "season": "Season",
    "kind": "Kind",
    "family": "Family",
    "alphabet": "Alphabet",
    "age": "Age",
    "place": "Place",
    "sowing": "Sowing month",
    "tag": "Own tags",
    "use": "What it is for",
    "urgency": "Urgency",
}
FORM = {
    "seed": "seed",
    "tuber": "tubers",
    "clove": "cloves",
    "set": "sets",
    "bulb": "bulbs",
    "slip": "slips",
    "crown": "crowns",
    "root": "root cuttings",
    "plant": "plants",
}
WORDS: dict[str, dict[str, str]] = {
    "air_source": AIR_SOURCE,
    "air_then": AIR_THEN,
    "closing": CLOSING,
    "closing_short": CLOSING_SHORT,
    "event": EVENT,
    "desiccant": DESICCANT,
    "origin": ORIGIN,
    "chain_link": CHAIN_LINK,
    "job_state": JOB_STATE,
    "ribbon": RIBBON,
    "seed_in_test": SEED_IN_TEST,
    "untested": UNTESTED,
    "follows": FOLLOWS,
    "opinion": OPINION,
    "found": FOUND,
    "lot_state": LOT_STATE,
    "grouping": GROUPING,
    "form": FORM,
}

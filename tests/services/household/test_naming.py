"""Everyday names: a hundred as people type them, plurals, slips of the pen, and what is asked instead."""

import pytest

from brisk_larder.reference import load_reference
from brisk_larder.reference.load import ReferenceError, _one_crop_each
from brisk_larder.reference.row_shapes import Alias
from brisk_larder.services.household.kinds import load_kinds
from brisk_larder.services.household.naming import candidates, guess_kind

# typed by somebody who knows gardens and not this table; after the colon what it is, or may be reckoned like
TYPED = """sweet corn:maize popcorn:maize snow peas:pea cherry tomatoes:tomato scallions:bunching_onion
collards:kale bok choy:chinese_cabbage cantaloupe:melon jalapenos:hot_pepper Swiss chard:chard
courgettes:squash_pepo zucchini:squash_pepo zuchini:squash_pepo butternut:squash_moschata
pumpkins:squash_maxima acorn squash:squash_pepo patty pans:squash_pepo rutabagas:swede arugula:rocket
eggplants:aubergine brinjal:aubergine cilantro:coriander black eyed peas:cowpea garbanzos:chickpea
favas:broad_bean broad beans:broad_bean runner beans:runner_bean pole beans:bean_pole
french beans:bean_bush kidney beans:bean_bush wax beans:bean_bush lima beans:bean_pole edamame:soybean
sugar snaps:pea mangetout:pea petit pois:pea spring onions:bunching_onion shallots:shallot red onions:onion
leeks:leek chives:chive garlic chives:chive carots:carrot parsnips:parsnip celery root:celeriac
parsly:parsley flat parsley:parsley dill weed:dill florence fennel:fennel savoy:cabbage
red cabbage:cabbage cavolo nero:kale curly kale:kale brocoli:broccoli purple sprouting:broccoli
cauliflowers:cauliflower brussel sprouts:brussels_sprout sprouts:brussels_sprout kohl rabi:kohlrabi
turnips:turnip daikon:radish mooli:radish raddish:radish mizuna:chinese_cabbage tatsoi:chinese_cabbage
mustard greens:mustard_greens beets:beet beetroots:beet perpetual spinach:chard silverbeet:chard
spinich:spinach orache:orach romaine:lettuce butterhead:lettuce lettuces:lettuce frisee:endive
radicchio:chicory lamb's lettuce:corn_salad mache:corn_salad purslane:purslane salsify:salsify
globe artichokes:artichoke asparagus:asparagus bell peppers:sweet_pepper capsicum:sweet_pepper
chillies:hot_pepper cayenne:hot_pepper husk tomatoes:tomatillo ground cherries:cape_gooseberry
gherkins:cucumber cucumbers:cucumber musk melon:melon water melons:watermelon okras:okra
sweet basil:basil thyme:thyme oregano:oregano marjoram:oregano sage:sage nasturtiums:nasturtium
sweet peas:sweet_pea poppies:poppy sunflowers:sunflower french marigolds:marigold_tagetes
pot marigolds:calendula zinnias:zinnia cosmea:cosmos hollyhocks:borage snapdragons:poppy linseed:flax
lucerne:alfalfa crimson clover:red_clover oats:oats winter rye:rye phacelia:phacelia lavender:lavender"""


def pairs():
    words = " ".join(TYPED.split())
    out, name = [], []
    for piece in words.split(" "):
        head, sign, key = piece.partition(":")
        name.append(head)
        if sign:
            out.append((" ".join(name), key))
            name = []
    return out


def test_of_a_hundred_names_nine_in_ten_reach_their_kind_or_a_fair_stand_in(larder):
    with larder.store.read() as session:
        kinds = load_kinds(session)
    typed = pairs()
    assert len(typed) >= 100
    missed = []
    for word, key in typed:
        offered = [c.key for c in candidates(word, kinds)]
        if guess_kind(word, kinds) != key and key not in offered:
            missed.append(word)
    assert len(missed) <= len(typed) // 10, missed
    outright = [w for w, key in typed if guess_kind(w, kinds) == key]
    assert len(outright) >= 0.85 * len(typed)
    wrong = {w: guess_kind(w, kinds) for w, key in typed if guess_kind(w, kinds) not in (None, key)}
    assert wrong == {}  # what is not sure is asked, never taken for another plant


@pytest.mark.parametrize(
    ("word", "how"),
    [
        ("snapdragon", "stand_in"),
        ("sweetpea", "near"),
        ("leaks", "near"),
        ("early purple carrot", "near"),
    ],
)
def test_what_is_not_a_name_of_the_tables_is_asked_with_three_likely_ones(larder, word, how):
    with larder.store.read() as session:
        kinds = load_kinds(session)
    assert guess_kind(word, kinds) is None
    found = candidates(word, kinds)
    assert found[0].how == how
    assert 1 <= len(found) <= 3


def test_few_letters_begin_a_name_and_a_whole_name_goes_before(larder):
    with larder.store.read() as session:
        kinds = load_kinds(session)
    assert [guess_kind(w, kinds) for w in ("tom", "kal", "to", "corn", "parsn")] == [
        "tomato", "kale", None, "maize", "parsnip",
    ]  # fmt: skip


def test_the_table_of_names_is_large_sourced_and_each_name_means_one_crop():
    ref = load_reference()
    assert sum(len(a.names.split(";")) for a in ref.aliases) >= 250
    assert all(a.source for a in ref.aliases)
    twice = [Alias(crop="kale", match="same", names="greens", source="made up"),
             Alias(crop="chard", match="same", names="greens", source="made up")]  # fmt: skip
    with pytest.raises(ReferenceError, match="greens"):
        _one_crop_each(twice, ref.crops)
    with pytest.raises(ReferenceError, match=r"species\.csv"):
        _one_crop_each(
            [Alias(crop="moonwort", match="same", names="x1", source="made up")], ref.crops
        )

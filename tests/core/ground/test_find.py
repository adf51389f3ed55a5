"""Finding: word order, plural, accents and one slip do not matter; the household's own comes first."""

import string

import pytest
from hypothesis import given
from hypothesis import strategies as st

from goodcrate.core.ground.find import (
    ENOUGH,
    SHORTEST_SLIP,
    SLIPPED,
    Entry,
    Shelf,
    best_matches,
    is_one_slip,
    match,
    plain,
    search_text,
    slip_fragments,
    words_of,
)

words = st.text(string.ascii_lowercase, min_size=4, max_size=14)


def rank(query: str, name: str, is_own: bool = False) -> object:
    return match(words_of(query), name, search_text(name), is_own=is_own)


@st.composite
def slips(draw: st.DrawFn) -> tuple[str, str]:
    """A word, and the same with one letter wrong, missing, too many, or two neighbours swapped."""
    word = draw(words)
    place = draw(st.integers(0, len(word) - 1))
    letter = draw(st.sampled_from(string.ascii_lowercase))
    kind = draw(st.sampled_from(["wrong", "missing", "extra", "swapped"]))
    if kind == "wrong":
        return word, word[:place] + letter + word[place + 1 :]
    if kind == "missing":
        return word, word[:place] + word[place + 1 :]
    if kind == "extra":
        return word, word[:place] + letter + word[place:]
    return word, word[:place] + word[place : place + 2][::-1] + word[place + 2 :]


@given(slips())
def test_one_slip_is_forgiven_and_the_database_would_have_offered_it(pair: tuple[str, str]) -> None:
    word, typed = pair
    assert is_one_slip(typed, word)
    if len(typed) >= 4:
        kept = f" {word}"
        assert any(fragment in kept for fragment in slip_fragments(typed)), (typed, word)


@given(words, words)
def test_two_slips_are_not(a: str, b: str) -> None:
    def distance(x: str, y: str) -> int:
        table = [[i + j if i * j == 0 else 0 for j in range(len(y) + 1)] for i in range(len(x) + 1)]
        for i in range(1, len(x) + 1):
            for j in range(1, len(y) + 1):
                change = x[i - 1] != y[j - 1]
                table[i][j] = min(table[i - 1][j] + 1, table[i][j - 1] + 1, table[i - 1][j - 1] + change)
                if i > 1 and j > 1 and x[i - 1] == y[j - 2] and x[i - 2] == y[j - 1]:
                    table[i][j] = min(table[i][j], table[i - 2][j - 2] + 1)
        return table[len(x)][len(y)]

    nearest = min(distance(a, b[:n]) for n in range(1, len(b) + 1))
    assert is_one_slip(a, b) is (nearest <= 1)


@pytest.mark.parametrize(
    ("query", "name"),
    [
        ("dry barley", "Pearl barley, dry"),
        ("hazelnuts", "Hazelnut, roasted"),
        ("potato", "Potatoes, boiled"),
        ("creme fraiche", "Crème fraîche"),
        ("Käse", "Kase, hard"),
        ("smorrebrod", "Smørrebrød"),
        ("hazlenut", "Hazelnuts, shelled"),
        ("barly", "Pearl barley, dry"),
        ("bar", "Pearl barley, dry"),
        ("berry", "Blueberries"),
    ],
)
def test_a_cook_finds_it(query: str, name: str) -> None:
    assert rank(query, name) is not None


@pytest.mark.parametrize(("query", "name"), [("barley", "Oat flour"), ("oat xyz", "Oat flour"), ("bxr", "Barley")])
def test_what_is_not_there_is_not_found(query: str, name: str) -> None:
    assert rank(query, name) is None


def test_better_answers_come_first() -> None:
    names = ["Barbecue sauce", "Pearl barley, dry", "Rhubarb, raw", "Barley", "Pearl barley, cooked"]
    found = sorted((m, n) for n in names if (m := rank("bar", n)) is not None)
    assert [n for _, n in found][:2] == ["Barley", "Barbecue sauce"]
    assert found[-1][1] == "Rhubarb, raw"
    own, shipped = rank("barley", "Pearl barley, dry", is_own=True), rank("barley", "Barley")
    assert own is not None
    assert shipped is not None
    assert own < shipped  # type: ignore[operator]
    inside = rank("arley", "Pearl barley, dry", is_own=True)
    assert inside is not None
    assert shipped < inside  # type: ignore[operator]


def test_plain_is_lower_case_without_accents() -> None:
    assert plain("ÉPEAUTRE Straße Ærø") == "epeautre strasse aero"


def entry(n: int, words: str, *, is_own: bool = False) -> Entry:
    return Entry(f"e{n}", search_text(words), "grain", frozenset(), energy_kcal=100.0, protein_g=5.0, is_own=is_own)


LETTERS = st.text("abc ", min_size=1, max_size=12).filter(str.strip)


@given(
    st.lists(LETTERS, min_size=1, max_size=30), st.lists(st.text("abc", min_size=1, max_size=4), min_size=1, max_size=2)
)
def test_the_shelf_finds_what_looking_through_all_of_it_finds(names: list[str], query: list[str]) -> None:
    """Brute force: every entry is judged by `match`, none is left out beforehand."""
    entries = [entry(n, name, is_own=n % 3 == 0) for n, name in enumerate(names)]
    shelf = Shelf.of(entries)
    judged = [(how, e) for e in entries if (how := match(query, e.searched, e.searched, is_own=e.is_own))]
    strict = [pair for pair in judged if pair[0].tier < SLIPPED]
    wanted = {e.key for _, e in (judged if len(strict) < ENOUGH else strict)}
    found = best_matches(query, shelf, len(entries))
    slips_too = any(len(word) >= SHORTEST_SLIP for word in query)
    assert {e.key for e in found} == (wanted if slips_too else {e.key for _, e in strict})
    hows = [match(query, e.searched, e.searched, is_own=e.is_own) for e in found]
    assert hows == sorted(hows, key=lambda how: (how is None, how))


@given(st.lists(LETTERS, max_size=30), st.text("abc ", min_size=1, max_size=4))
def test_words_with_a_piece_are_all_of_them(names: list[str], piece: str) -> None:
    shelf = Shelf.of(entry(n, name) for n, name in enumerate(names))
    assert sorted(shelf.words_with(piece)) == sorted(word for word in shelf.postings if piece in word)


def test_of_too_many_answers_the_same_ones_are_judged_in_any_order() -> None:
    entries = [entry(n, f"barley {n % 7} {'x' * (n % 5)}") for n in range(700)]
    there = [e.key for e in best_matches(["barl"], Shelf.of(entries), 40)]
    back = [e.key for e in best_matches(["barl"], Shelf.of(reversed(entries)), 40)]
    assert there == back

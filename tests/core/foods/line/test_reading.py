"""Lines understood: the food that is meant, grams by hand-worked sums, and questions where a careful cook would ask."""

import pytest

from goodcrate.core.foods.line.reading import OFFERS, Understood
from goodcrate.formats.line_words import line_reader, near_names
from goodcrate.formats.reference import reference_foods


def read(line: str, convention: str = "metric") -> Understood:
    """The line, by the shipped tables."""
    return line_reader(convention).read(line)


@pytest.mark.parametrize(
    ("line", "key", "low", "high"),
    [
        # bare kitchen words mean their usual food, raw or dry
        ("30 g garlic", "garlic_raw", 30, 30),
        ("80 g onion", "onion_raw", 80, 80),
        ("300 g rice", "rice_white_dry", 300, 300),
        ("100 g egg", "egg_whole_raw", 100, 100),
        ("400 g tomatoes", "tomato_raw", 400, 400),
        ("200 g flour", "wheat_flour_white", 200, 200),
        # and what they say otherwise wins
        ("300 g cooked rice", "rice_white_cooked", 300, 300),
        ("5 g garlic powder", "garlic_powder", 5, 5),
        ("100 g milk chocolate", "milk_chocolate", 100, 100),
        ("2 tbsp light mayonnaise", "mayonnaise_light", 27, 33),
        ("1 tsp ground ginger", "ginger_ground", 1.5, 2.6),
        # pieces, by the size they are said to be
        ("2 onions", "onion_raw", 200, 260),
        ("1 pepper", "pepper_red_raw", 100, 160),
        ("1 large onion, finely chopped", "onion_raw", 140, 180),
        ("6 large eggs", "egg_whole_raw", 330, 370),
        ("12 cherry tomatoes, halved", "tomato_cherry_raw", 110, 200),
        ("4 rashers bacon", "bacon_back_raw", 90, 140),
        ("2 celery sticks, chopped", "celery_raw", 60, 110),
        ("9 dried lasagne sheets", "pasta_white_dry", 135, 225),
        ("1 bunch asparagus, trimmed", "asparagus_raw", 180, 300),
        ("a few sprigs of thyme", "thyme_fresh", 1, 5),
        ("5 cm piece of ginger", "ginger_raw", 15, 40),
        # tins drained, brackets, bones and shells
        ("1 x 400 g tin kidney beans, drained", "kidney_beans_canned_drained", 230, 250),
        ("1 (15-ounce) can black beans", "black_beans_canned_drained", 240, 270),
        ("400g can chopped tomatoes", "tomatoes_canned", 395, 405),
        ("2 skinless cod fillets (140g each)", "cod_raw", 280, 280),
        ("3 medium potatoes (approx. 600g)", "potato_raw", 600, 600),
        ("40 g pistachios in their shells", "pistachios", 18, 22),
        ("8 chicken thighs, bone in and skin on", "chicken_thigh_meat_and_skin_raw", 640, 1240),
        # parts of a fruit
        ("juice of half a lemon", "lemon_juice", 15, 30),
        ("1 lime, juiced", "lime_juice", 20, 40),
        ("grated zest of 1 unwaxed lemon", "lemon_peel_raw", 2, 10),
        # slips of the pen
        ("2 cups cooked quiona", "quinoa_cooked", 320, 400),
        ("1 cup red lentles", "lentils_red_dry", 180, 220),
        ("fresh corriander, chopped, 20 g", "coriander_fresh", 20, 20),
        # amounts behind the name, fractions, words
        ("Olive oil: 3 tbsp", "olive_oil", 37, 48),
        ("Onion x 2", "onion_raw", 200, 260),
        ("1½ tbsp rapeseed oil", "rapeseed_oil", 18, 23),
        ("2 tbsp olive oil (or rapeseed oil)", "olive_oil", 24, 32),
        ("600ml vegetable stock (made with 1 stock cube)", "vegetable_stock_ready", 590, 612),
        ("1 red or yellow pepper", "pepper_red_raw", 100, 160),
    ],
)
def test_a_line_is_understood_and_sure(line: str, key: str, low: float, high: float) -> None:
    found = read(line)
    assert (found.key, found.asks) == (key, ())
    assert found.grams is not None
    assert low <= found.grams <= high
    assert found.offers[0] == key


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("200 ml cream", "single, whipping or double?"),
        ("200g Greek yoghurt", "how much fat?"),
        ("150g king prawns", "raw or cooked?"),
        ("50g mixed nuts", ""),
        ("1 tbsp butter or olive oil", "two foods are named"),
        ("1 tsp each ground cumin and turmeric", "two foods stand in one line"),
        ("some olive oil", "no amount is given"),
        ("1 mug of brown rice", "a mug is no measure"),
        ("200 g self-raising flour", "is not in"),
        ("2 tbsp reduced-salt soy sauce", "is not in"),
        ("100 g half-fat creme fraiche", "is not in"),
        ("300 g fresh tagliatelle", "is not in"),
        ("4 tbsp mango chutney", "is not in"),
        ("1 whole chicken", "which part of it?"),
        ("400 g tin of lentils", "no tin of it is known"),
        ("zest of 2 limes", "no peel but lemon peel"),
        ("200 g moonshine", "no such food is known"),
        ("1 sheet puff pastry and love", ""),
        ("1e9 g salt", "two ways"),
    ],
)
def test_a_careful_cook_would_ask(line: str, why: str) -> None:
    found = read(line)
    assert found.asks
    assert any(why in asked for asked in found.asks)


@pytest.mark.parametrize(
    ("line", "flags"),
    [
        ("2 tbsp nutritional yeast (optional)", ("optional",)),
        ("SALT TO TASTE", ("to taste",)),
        ("4 spring onions, finely sliced, to serve", ("on the day",)),
        ("100g dried chickpeas, soaked overnight", ("night before",)),
        ("2 onions", ()),
    ],
)
def test_a_line_says_when_it_goes_in(line: str, flags: tuple[str, ...]) -> None:
    assert read(line).flags == flags


def test_every_near_name_asks_and_offers_its_foods() -> None:
    for name, keys in near_names():
        found = read(f"100 g {name}")
        assert found.key is None, name
        assert found.asks, name
        assert found.grams is not None, name
        assert 50 < found.grams <= 100, name  # less where it is bought on the bone
        assert found.offers == keys[:4], name


def test_seasonings_need_no_amount_and_get_none() -> None:
    for line in ("salt and pepper", "sea salt and freshly ground black pepper to taste", "fresh coriander, to garnish"):
        found = read(line)
        assert (found.asks, found.grams) == ((), None)
    assert read("parmesan shavings, to serve").asks


def test_spoons_and_cups_are_the_households() -> None:
    metric, australian = (read("2 tbsp soy sauce", name).grams or 0 for name in ("metric", "australian"))
    assert australian == pytest.approx(metric * 4 / 3, rel=0.01)


def test_a_range_counts_as_its_middle_and_its_width_as_doubt() -> None:
    one, several = read("3 tbsp olive oil"), read("2-4 tbsp olive oil")
    assert several.grams == pytest.approx(one.grams)
    assert several.error_g > one.error_g > 0


def test_what_is_offered_is_different_foods_likeliest_first() -> None:
    for line in ("200g Greek yoghurt", "1 onion", "100 g cheddar", "500 g minced beef"):
        offers = read(line).offers
        assert 1 <= len(offers) <= OFFERS
        assert len(set(offers)) == len(offers)
        assert all(key in reference_foods() for key in offers)


@pytest.mark.parametrize(
    "line", ["", "   ", "½½ cup x", "مرحبا 200", "🍅🍅", "x" * 10_000, "((((", "1/0 cup milk", "-3 eggs"]
)
def test_odd_text_is_bounded_and_never_an_error(line: str) -> None:
    found = read(line)
    assert found.text == line
    assert found.grams is None or 0 <= found.grams < 1e6

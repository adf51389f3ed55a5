"""What an eater's days brought, as the page draws it: each nutrient against what is asked, and the tape of one."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from goodcrate.core.foods.food import Food
from goodcrate.core.ground.nutrients import BY_KEY, KEYS
from goodcrate.core.ground.wording import say
from goodcrate.core.ground.writing import many, short
from goodcrate.core.review.intakes import (
    HELD_AGAINST,
    LOW,
    NEAR,
    NOT_KNOWN,
    OVER,
    SATURATED_MOST_SHARE,
    Standing,
    omega_ratio,
    saturated_share,
)
from goodcrate.core.review.sources import Source, iron_beside, main_sources, sources_of
from goodcrate.core.targets.eater import Eater
from goodcrate.services.review.brought import eaten_foods, foods_of_week, standings_of, that_help
from goodcrate.services.review.week_story import EaterDayStory, WeekStory, means
from goodcrate.web.figures import number, percent
from goodcrate.web.tape import Tape, TapeLine, Why

MOST_HELPED, MOST_SOURCES = 3, 8


@dataclass(frozen=True)
class NutrientLine:
    """A nutrient of an eater's mean day against what is asked: a bar, its words, and the share that is not known."""

    key: str
    name: str
    bar_pct: float
    limit_pct: float | None
    words: str
    standing: str
    unknown_pct: float
    unknown_words: str
    is_at_least: bool


@dataclass(frozen=True)
class Brought:
    """What an eater's days brought: nutrients of which something is asked, the others, and what is worth saying."""

    eater: Eater
    days: int
    lines: tuple[NutrientLine, ...]
    others: tuple[tuple[str, str], ...]
    notes: tuple[str, ...]


def brought_by(story: WeekStory, days: Sequence[EaterDayStory], eater: Eater, there: Sequence[Food]) -> Brought | None:
    """What an eater's days brought a day; None where none of them is over. `there` are the foods in the house."""
    over = [d for d in days if d.is_over]
    if not over:
        return None
    told = standings_of(over, eater)
    asked = {HELD_AGAINST.get(s.nutrient, s.nutrient) for s in told} | {s.nutrient for s in told}
    of_all = {key: (known, unknown) for key, known, unknown in means(over, KEYS)}
    others = tuple(
        (str(BY_KEY[key].label), _amount(key, *of_all[key])) for key in KEYS if key not in asked and key in of_all
    )
    notes = [*_fats(of_all), *_helped(story, told, eater, there), *_beside(over)]
    sources = main_sources(sources_of(eaten_foods(story, over), "protein_g"))
    if sources:
        notes.insert(0, _from(sources, "protein_g"))
    return Brought(eater, len(over), tuple(_line(s) for s in told), others, tuple(notes))


def _amount(key: str, known: float, unknown: float) -> str:
    nutrient = BY_KEY[key]
    told = f"{number(known, nutrient.decimals)} {nutrient.unit}"
    if unknown >= 1 and not known:
        return say("not known")
    return say("at least {told}", told=told) if unknown > 0 else told


def _from(sources: Sequence[Source], nutrient: str) -> str:
    foods = _and([s.food for s in sources])
    share = percent(sum(s.share for s in sources))
    return say(
        "{share} of the {nutrient} came from {foods}.", share=share, nutrient=BY_KEY[nutrient].label, foods=foods
    )


def _and(names: Sequence[str]) -> str:
    if len(names) < 2:
        return "".join(names)
    return say("{names} and {last}", names=", ".join(names[:-1]), last=names[-1])


def _fats(of_all: dict[str, tuple[float, float]]) -> Iterator[str]:
    share = saturated_share(of_all["saturated_g"][0], of_all["energy_kcal"][0])
    if share is not None:
        told = {"share": percent(share), "most": percent(SATURATED_MOST_SHARE)}
        least = of_all["saturated_g"][1] > 0
        yield (
            say("Saturated fat is at least {share} of the energy; WHO (2023) advises at most {most}.", **told)
            if least
            else say("Saturated fat is {share} of the energy; WHO (2023) advises at most {most}.", **told)
        )
    six, three = of_all["omega6_g"], of_all["omega3_g"]
    ratio = omega_ratio(six[0], three[0])
    if ratio is not None and max(six[1], three[1]) < 1:
        not_known = percent(max(six[1], three[1]))
        told = {"ratio": number(ratio, 1), "share": not_known}
        yield say(
            "Omega-6 to omega-3, as far as both are known (not of {share} of the weight): {ratio} to 1; no authority "
            "asks for a ratio.",
            **told,
        )


def _helped(story: WeekStory, told: Iterable[Standing], eater: Eater, there: Sequence[Food]) -> Iterator[str]:
    low = [s for s in told if s.says == LOW and s.asked.wanted is not None]
    low.sort(key=_share_reached)
    for standing in low[:MOST_HELPED]:
        wanted = standing.asked.wanted
        asked = 0.0 if wanted is None else wanted.value
        nutrient = HELD_AGAINST.get(standing.nutrient, standing.nutrient)
        words = {"who": eater.first_name, "what": BY_KEY[standing.nutrient].label}
        helps = [h.food for h in that_help(there, eater, nutrient, asked)]
        if helps:
            yield say("Would help {who}’s {what}, and is in the house: {foods}.", foods=_and(helps), **words)
            continue
        helps = [h.food for h in that_help(foods_of_week(story), eater, nutrient, asked)]
        if helps:
            yield say("Would help {who}’s {what}, and you cook with it: {foods}.", foods=_and(helps), **words)


def _share_reached(standing: Standing) -> float:
    wanted = standing.asked.wanted
    return standing.known / wanted.value if wanted is not None and wanted.value > 0 else 1.0


def _beside(days: Iterable[EaterDayStory]) -> Iterator[str]:
    with_c, with_calcium = iron_beside(meal.eaten for day in days for meal in day.meals if meal.eaten.grams > 0)
    if not with_c.meals:
        return
    told = {"meals": many(with_c.meals, "meal"), "c": with_c.with_other, "calcium": with_calcium.with_other}
    yield say(
        "Iron from plants is taken up better beside vitamin C, less beside much calcium (NIH, iron fact sheet): of the "
        "{meals} with 3 mg of iron or more {c} held 25 mg of vitamin C, {calcium} held 300 mg of calcium.",
        **told,
    )


def _line(one: Standing) -> NutrientLine:
    nutrient, wanted = BY_KEY[one.nutrient], one.asked.wanted
    full = 2 * wanted.value if wanted is not None else 1.2 * one.asked.limits[0].value
    limit = one.asked.limits[0] if one.asked.limits else None
    at_limit = None if limit is None or limit.value > full else round(100 * limit.value / full, 1)
    return NutrientLine(
        one.nutrient,
        str(nutrient.label),
        round(min(100.0, 100 * one.known / full), 1),
        at_limit,
        standing_words(one),
        "bad" if one.says in (LOW, OVER) else "near" if one.says == NEAR else "",
        unknown_pct=round(100 * one.unknown_share, 1),
        unknown_words=share_words(one.unknown_share),
        is_at_least=one.is_at_least,
    )


def share_words(share: float) -> str:
    """A share in whole per cent, never none where there is some."""
    return say("under 1 %") if 0 < share < 0.005 else percent(share)


def standing_words(one: Standing) -> str:
    """How a nutrient stands: “27 g of 38, low by 11”, “at least 96 µg of 150; too much is not known to call it low”."""
    nutrient, wanted = BY_KEY[one.nutrient], one.asked.wanted
    known, unit = number(one.known, nutrient.decimals), str(nutrient.unit)
    least = say("at least {known} {unit}", known=known, unit=unit) if one.is_at_least else f"{known} {unit}"
    words = least
    if wanted is not None:
        words = say("{known} of {wanted}", known=least, wanted=number(wanted.value, _digits(wanted.value)))
    if one.limit is not None:
        told = {"words": words, "limit": short(one.limit.value, grouped=True)}
        near = say("{words}, near the limit of {limit}", **told)
        return say("{words}, over the limit of {limit}", **told) if one.says == OVER else near
    if one.says == LOW and wanted is not None:
        by = number(wanted.value - one.known, nutrient.decimals)
        return say("{words}, low by {by}", words=words, by=by)
    if one.says == NOT_KNOWN:
        return say("{words}; too much not known to call it low", words=words)
    return words


def _digits(value: float) -> int:
    return 0 if value == int(value) else 1


def tape_of(
    story: WeekStory, days: Sequence[EaterDayStory], eater: Eater, nutrient: str, there: Sequence[Food]
) -> Tape | None:
    """The working of one nutrient: which foods brought it, what is asked and by whom; None where no day is over."""
    over = [d for d in days if d.is_over]
    if not over:
        return None
    of_food = HELD_AGAINST.get(nutrient, nutrient)
    about = BY_KEY[nutrient]
    digits = about.decimals + 1
    sources = sources_of(eaten_foods(story, over), of_food)
    lines = [
        TapeLine(s.food or say("weighed at the table"), percent(s.share), number(s.amount / len(over), digits))
        for s in sources[:MOST_SOURCES]
    ]
    rest = sources[MOST_SOURCES:]
    if rest:
        told = many(len(rest), "food")
        share, amount = sum(s.share for s in rest), sum(s.amount for s in rest)
        lines.append(TapeLine(say("{foods} more", foods=told), percent(share), number(amount / len(over), digits)))
    standing = next((s for s in standings_of(over, eater) if s.nutrient == nutrient), None)
    [(_, known, unknown)] = means(over, [of_food])
    return Tape(
        say("{who}’s {what}", who=eater.first_name, what=about.label),
        say("a day, on the mean of {days} · {unit}", days=many(len(over), "day"), unit=str(about.unit)),
        tuple(lines),
        tuple(_sums(known, unknown, standing, digits)),
        tuple(_whys(story, eater, nutrient, standing, there)),
        heading=str(about.unit),
    )


def _sums(known: float, unknown: float, standing: Standing | None, digits: int) -> Iterator[TapeLine]:
    note = say("of {share} of the weight it is not known", share=share_words(unknown)) if unknown > 0 else ""
    yield TapeLine(say("at least") if unknown > 0 else say("in all"), "", number(known, digits), note)
    if standing is None:
        return
    if standing.asked.wanted is not None:
        wanted = standing.asked.wanted
        yield TapeLine(say("asked for"), "", short(wanted.value, grouped=True), f"{wanted.kind}, {wanted.source}")
    for limit in standing.asked.limits:
        yield TapeLine(say("limit"), "", short(limit.value, grouped=True), f"{limit.kind}, {limit.source}")


def _whys(
    story: WeekStory, eater: Eater, nutrient: str, standing: Standing | None, there: Sequence[Food]
) -> Iterator[Why]:
    if standing is None:
        yield Why(say("Our table of reference intakes asks for none of it and sets no limit."))
        return
    if standing.asked.is_of_any:
        yield Why(
            say("Sex or age is not given: the most that is asked of any adult."),
            say("Give them"),
            f"/targets/{eater.id}",
        )
    rows = (*((standing.asked.wanted,) if standing.asked.wanted else ()), *standing.asked.limits)
    for note in dict.fromkeys(row.note for row in rows if row.note):
        yield Why(note)
    for words in _helped(story, [standing], eater, there):
        yield Why(words)
    if nutrient != "protein_g":
        yield Why(say("A mean below what is asked is no diagnosis. Your own clinician comes first."))

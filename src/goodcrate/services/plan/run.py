"""What a worker does to plan a week: it reads the week once, plans it aim after aim, and says in the job's row what it
has."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from datetime import date
from uuid import UUID

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.ground.writing import price
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import (
    AIMS,
    LEAST_COOKING,
    LOWEST_COST,
    WITHIN_BUDGET,
    Conflict,
    PlanResult,
    WeekPlan,
    WeekPlanProblem,
)
from goodcrate.db.jobs import JobRow
from goodcrate.db.stored import by_name
from goodcrate.db.week import WeekRow
from goodcrate.services.calling import Caller, existing
from goodcrate.services.jobs.kind import JobKind
from goodcrate.services.jobs.ledger import DONE, STOPPED, beat
from goodcrate.services.plan.costs import cost_of
from goodcrate.services.plan.planning import PLANNING, as_stored
from goodcrate.services.plan.problem import Wishes, problem_of
from goodcrate.services.shop.listing import around_of
from goodcrate.services.week.eat_first import IN_HOUSE
from goodcrate.services.week.weeks import load_picture

WITHOUT_BOXES = Saying("The boxes in the house fit into no week that keeps the rules: planned without them.")


@dataclass(frozen=True)
class _Try:
    """A problem with its wishes, the same with the targets as they are, and what to say beside its weeks."""

    problem: WeekPlanProblem
    real: WeekPlanProblem
    note: str
    placed: Mapping[tuple[str, int, str], str]

    def as_stored(self, conflict: Conflict) -> Document:
        """A conflict as it is kept: with the id of the meal it is about."""
        if conflict.field != "free_meal":
            return asdict(conflict)
        slot = self.problem.slots[conflict.value]
        return {**asdict(conflict), "meal": self.placed[slot.eater_key, slot.day, slot.slot_key]}


def plan_as_asked(caller: Caller, job_id: UUID) -> None:
    """Plan, aim after aim."""
    with caller.transaction() as session:
        job = existing(session, JobRow, job_id, "plan")
        wishes = by_name(Wishes, job.input["wishes"])
        picture = load_picture(session, existing(session, WeekRow, job.week_id or job_id, "week"))
        first = first_day = picture.week.first_day
        placed = {(str(p.eater_id), (p.day - first).days, str(p.slot_id)): str(p.id) for p in picture.meals}

        def tried(wishes: Wishes, note: str) -> _Try:
            real = replace(wishes, lower_floors_g=0, widen_bands_kcal=0, leave_bands=0)
            return _Try(problem_of(session, picture, wishes), problem_of(session, picture, real), note, placed)

        tries = [tried(wishes, "")]
        if any(IN_HOUSE in d.key for d in tries[0].problem.dishes):
            tries.append(tried(replace(wishes, eat_house=False), WITHOUT_BOXES))
    for n, one in enumerate(tries):
        result = _all_aims(caller, first_day, job_id, one, explain=n == len(tries) - 1)
        if result.plan is not None:
            return
        if n == len(tries) - 1:
            said = (
                say("We found no week in the time there was. There may be one: plan again, or let a rule go.")
                if result.ran_out
                else ""
            )
            beat(caller, job_id, status=DONE, result=told(one, result.conflicts), said=said)


def told(one: "_Try", conflicts: Sequence[Conflict]) -> Document:
    """What a job ends with besides the weeks it found."""
    return {"conflicts": [one.as_stored(c) for c in conflicts], "replaced": []}


@dataclass
class _Run:
    """Planning aim after aim: the weeks found so far, as core has them by aim and as they are kept."""

    caller: Caller
    first_day: date
    job_id: UUID
    one: _Try
    found: dict[str, WeekPlan] = field(default_factory=dict)
    kept: list[Document] = field(default_factory=list)

    def plan(self, aim: str, problem: WeekPlanProblem, *, explain: bool) -> PlanResult:
        """Plan by one aim, saying each better week in the job's row."""

        def better(week: WeekPlan) -> bool:
            so_far = [p for p in self.kept if p["aim"] != aim]
            words = say("{AIMS}: {batches} batches so far", AIMS=AIMS[aim], batches=week.batches)
            return beat(self.caller, self.job_id, best=[*so_far, self._as_stored(aim, week)], said=words)

        def named(conflicts: tuple[Conflict, ...]) -> None:
            words = say("We found no week that keeps all of this.")
            beat(self.caller, self.job_id, result=told(self.one, conflicts), said=words)

        asked = replace(problem, rules=replace(problem.rules, aim=aim))
        return plan_week(asked, better, self._base(aim), explain=explain, report=named)

    def _base(self, aim: str) -> WeekPlan | None:
        """The week a search begins from: the cheapest for a budget, if it keeps to it."""
        least, cheapest, budget = self.found.get(LEAST_COOKING), self.found.get(LOWEST_COST), self.budget
        if aim != WITHIN_BUDGET or cheapest is None or cheapest.till is None or budget is None:
            return least
        return cheapest if cheapest.till <= budget else least

    def within_budget(self) -> PlanResult:
        """The least cooking whose list costs no more than the budget by the list itself, where the least of all costs
        more: prices the planner estimates are looked at again, a little below it."""
        till, most = self.one.problem.till, self.budget
        if till is None or most is None or self.at_the_till(self.found[LEAST_COOKING]) <= most:
            return PlanResult(None)
        for _ in range(MOST_TRIES):
            problem = replace(self.one.problem, till=replace(till, budget=most))
            result = self.plan(WITHIN_BUDGET, problem, explain=False)
            over = 0.0 if result.plan is None else self.at_the_till(result.plan) - (till.budget or 0.0)
            if over <= 0:
                return result
            most -= over
        return PlanResult(None)

    @property
    def budget(self) -> float | None:
        """What the list may cost; None where that is not said, or no price of anything is known."""
        return self.one.problem.till.budget if self.one.problem.till is not None else None

    def at_the_till(self, week: WeekPlan) -> float:
        """What the week's shopping list says it costs."""
        stored = self._as_stored(WITHIN_BUDGET, week)
        with self.caller.transaction() as session:
            job = existing(session, JobRow, self.job_id, "plan")
            picture = load_picture(session, existing(session, WeekRow, job.week_id or self.job_id, "week"))
            around = around_of(session, picture.week.id)
            return cost_of(session, picture, stored, {row_id for row_id, _ in job.input["opened"]}, around, None).price

    def keep(self, aim: str, week: WeekPlan) -> None:
        """Keep a week that was found, unless it is too like another to be a choice."""
        self.found[aim] = week
        stored = self._as_stored(aim, week)
        if not any(_same(stored, p) for p in self.kept):
            self.kept.insert(1 if aim == WITHIN_BUDGET else len(self.kept), stored)

    def _as_stored(self, aim: str, week: WeekPlan) -> Document:
        return as_stored(week, self.one.real, self.first_day, aim)

    @property
    def said(self) -> str:
        """What is said beside the weeks in the end."""
        note, budget = say(self.one.note), self.budget
        if budget is None or WITHIN_BUDGET in self.found:
            return note
        least = min(self.at_the_till(week) for week in self.found.values())
        if least <= budget:
            return note
        words = say(
            "We found no week whose list costs {budget} or less: the lowest we found is {least}.",
            budget=price(budget),
            least=price(least),
        )
        return " ".join(filter(None, (note, words)))


def _all_aims(caller: Caller, first_day: date, job_id: UUID, one: _Try, *, explain: bool) -> PlanResult:
    """Plan aim after aim and say each week in the job's row; answers the first aim's result."""
    run = _Run(caller, first_day, job_id, one)
    first = run.plan(LEAST_COOKING, one.problem, explain=explain)
    if first.plan is None:
        return first
    run.keep(LEAST_COOKING, first.plan)
    for aim in AIMS:
        if aim == LEAST_COOKING or (aim == LOWEST_COST and one.problem.till is None):
            continue  # without any price there is no lowest cost
        if not beat(caller, job_id, best=run.kept, said=say("Now looking for: {AIMS}", AIMS=AIMS[aim])):
            beat(caller, job_id, status=STOPPED, said=say(PLANNING_KIND.when_stopped))
            return first
        result = run.within_budget() if aim == WITHIN_BUDGET else run.plan(aim, one.problem, explain=False)
        if result.plan is not None:
            run.keep(aim, result.plan)
    if beat(caller, job_id, best=run.kept):
        beat(caller, job_id, status=DONE, said=run.said)
    else:
        beat(caller, job_id, status=STOPPED, said=say(PLANNING_KIND.when_stopped))
    return first


MOST_TRIES = 2
"""How often a week within the budget is looked for when the list says otherwise."""


def _same(a: Document, b: Document) -> bool:
    """Whether two weeks are too alike to be a choice: the same dishes in the same slots."""

    def key(p: Document) -> set[tuple[str, str, str, str]]:
        return {(m["eater"], m["slot"], m["day"], m["recipe"]) for m in p["meals"]}

    return key(a) == key(b)


def _load_solver() -> None:
    import ortools.sat.python.cp_model  # noqa: F401 (takes seconds, better while nobody waits)


PLANNING_KIND = JobKind(
    PLANNING,
    plan_as_asked,
    _load_solver,
    Saying("Stopped. What it had found by then is below."),
    Saying("What was found is below; plan again for more."),
    Saying("Planning failed. Your week is unchanged."),
)

"""What a worker does to plan a week: it reads the week once, plans it aim after aim, and says in the job's row what it
has."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import date
from uuid import UUID

from goodcrate.core.ground.document import Document
from goodcrate.core.ground.wording import Saying, say
from goodcrate.core.week.plan.week_plan import plan_week
from goodcrate.core.week.week_problem import AIMS, LOWEST_COST, Conflict, PlanResult, WeekPlan, WeekPlanProblem
from goodcrate.db.jobs import JobRow
from goodcrate.db.stored import by_name
from goodcrate.db.week import WeekRow
from goodcrate.services.calling import Caller, existing
from goodcrate.services.jobs.kind import JobKind
from goodcrate.services.jobs.ledger import DONE, STOPPED, beat
from goodcrate.services.week.eat_first import IN_HOUSE
from goodcrate.services.week.plan_problem import Wishes, problem_of
from goodcrate.services.week.planning import PLANNING, as_stored
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


def _all_aims(caller: Caller, first_day: date, job_id: UUID, one: _Try, *, explain: bool) -> PlanResult:
    """Plan aim after aim and say each week in the job's row; answers the first aim's result."""
    plans: list[Document] = []
    first: PlanResult | None = None
    problem = one.problem
    for aim in AIMS:
        if aim == LOWEST_COST and any(d.cost_per_g is None for d in problem.dishes if not d.family):
            continue  # without every price there is no lowest cost
        asked = replace(problem, rules=replace(problem.rules, aim=aim))

        def better(week: WeekPlan, aim: str = aim) -> bool:
            so_far = [p for p in plans if p["aim"] != aim]
            words = say("{AIMS}: {batches} batches so far", AIMS=AIMS[aim], batches=week.batches)
            return beat(caller, job_id, best=[*so_far, as_stored(week, one.real, first_day, aim)], said=words)

        def named(conflicts: tuple[Conflict, ...]) -> None:
            beat(caller, job_id, result=told(one, conflicts), said=say("We found no week that keeps all of this."))

        result = plan_week(asked, better, first.plan if first else None, explain=explain, report=named)
        first = first or result
        if result.plan is None:
            return first
        stored = as_stored(result.plan, one.real, first_day, aim)
        if not any(_same(stored, p) for p in plans):
            plans.append(stored)
        if not beat(caller, job_id, best=plans, said=say(one.note)):
            beat(caller, job_id, status=STOPPED, said=say(PLANNING_KIND.when_stopped))
            return first
    beat(caller, job_id, status=DONE, best=plans, said=say(one.note))
    return first or PlanResult(None, ran_out=True)


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

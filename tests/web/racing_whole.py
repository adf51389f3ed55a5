"""Two hands at once on the household as a whole: its archive, and its people."""

import io
from uuid import UUID, uuid4

from goodcrate.core.ground.roles import COOK
from goodcrate.services import people
from goodcrate.services.archive import files, work
from goodcrate.services.archive.export import write_archive
from goodcrate.services.jobs import ledger
from tests.conftest import PASSWORD, Cook
from tests.services.kitchen import Kitchen
from tests.web.racing import Pairing


def archive(kitchen: Kitchen) -> bytes:
    """The household's archive."""
    file = io.BytesIO()
    write_archive(kitchen.caller, file)
    return file.getvalue()


def looked_through(kitchen: Kitchen) -> UUID:
    """An archive that was brought and looked through."""
    job_id = uuid4()
    files.keep(kitchen.caller, job_id, files.IN, "brought.zip", io.BytesIO(archive(kitchen)))
    with kitchen.caller.transaction() as session:
        ledger.begin(session, job_id, work.LOOK_JOB, None, {"file": str(job_id)})
    work.look(kitchen.caller, job_id)
    return job_id


def taken_in(cook: Cook, kitchen: Kitchen) -> list[tuple[str, dict[str, object]]]:
    return [(f"/archive/{looked_through(kitchen)}/take-in", {"id": str(uuid4()), "wins": work.HERE_WINS})] * 2


def second_person(kitchen: Kitchen, role: str = COOK) -> UUID:
    """Somebody else of the household."""
    name = f"second-{uuid4().hex[:10]}"
    people.join(kitchen.caller.database, people.invite(kitchen.caller, role, kitchen.eater_id), name, PASSWORD)
    return next(p.id for p in people.people_of(kitchen.caller) if p.name == name)


def invited(kitchen: Kitchen) -> str:
    """The address of an invitation that waits."""
    people.invite(kitchen.caller, COOK, None)
    return f"/people/invitations/{people.invitations(kitchen.caller)[-1].key}/take-back"


REPEATED: dict[str, Pairing] = {
    "/archive/make": lambda *_: [("/archive/make", {"id": str(uuid4())})] * 2,
    "/archive/bring": lambda _, k: [("/archive/bring", {"id": str(uuid4()), "file": archive(k)})] * 2,
    "/archive/{job_id}/take-in": taken_in,
    "/people/invite": lambda *_: [("/people/invite", {"role": "cook"})] * 2,
    "/people/invitations/{key}/take-back": lambda _, k: [(invited(k), {})] * 2,
    "/people/{user_id}/role": lambda _, k: [(f"/people/{second_person(k)}/role", {"role": "cook"})] * 2,
    "/people/{user_id}/code": lambda _, k: [(f"/people/{second_person(k)}/code", {})] * 2,
    "/people/{user_id}/remove": lambda _, k: [(f"/people/{second_person(k)}/remove", {})] * 2,
    "/account/code": lambda *_: [("/account/code", {})] * 2,
    "/archive/take-back": lambda *_: [("/archive/take-back", {})] * 2,
}
"""As in `test_racing_pairs`: sent twice at the same moment, answered alike."""

"""A kind of long work, as its stage describes it to the worker."""

from collections.abc import Callable
from dataclasses import dataclass
from uuid import UUID

from goodcrate.services.calling import Caller


@dataclass(frozen=True)
class JobKind:
    """`run` does a job and says how far it is with `ledger.beat`; `get_ready` loads what takes long to load.

    The words are what the job's page says when it was stopped, cut off by its time, or failed.
    """

    name: str
    run: Callable[[Caller, UUID], None]
    get_ready: Callable[[], None]
    when_stopped: str
    when_cut_off: str
    when_failed: str

"""What can be wrong, with the facts a page or a command line needs to phrase it.

::

    GoodCrateError
    ├── InvalidInput        one fault: at which field, what is wrong, what would be right
    ├── InvalidInputs       every fault of one form or file
    ├── StoppedEarly        the clock ran out before the work was done; nothing is wrong with what was typed
    └── Inconsistent        a broken promise of ours (a bug), never the cook's doing
"""

from collections.abc import Iterable


class GoodCrateError(Exception):
    """Base of every error the core raises on purpose."""


class InvalidInput(GoodCrateError):
    """One thing typed or sent cannot be used.

    `field` names the place, `problem` what is wrong, `wanted` what would be right.
    """

    def __init__(self, field: str, problem: str, wanted: str = "") -> None:
        self.field = field
        self.problem = problem
        self.wanted = wanted
        super().__init__(f"{field}: {self.message}")

    @property
    def message(self) -> str:
        """The fault as one or two sentences, without the field's name."""
        return f"{self.problem} {self.wanted}".strip()


class InvalidInputs(GoodCrateError):
    """Every fault found in one form or file, so that all can be mended at once."""

    def __init__(self, faults: Iterable[InvalidInput]) -> None:
        self.faults = tuple(faults)
        super().__init__("; ".join(str(fault) for fault in self.faults))


class StoppedEarly(GoodCrateError):
    """Work with a limit was cut off by the clock, on a machine too busy to do it: another run may find more."""


class Inconsistent(GoodCrateError):
    """The core broke one of its own promises, such as grams lost between pot and boxes."""

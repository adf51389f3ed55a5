"""Are there known faults in what we depend on? Asked of the indexes when the tests run: `pip-audit` for the Python
lock, `npm audit` for the other one.

A known fault fails. An index that is not reachable, or does not know what we ask for, is said: nothing was audited.
"""

import json
import shutil
import subprocess
import sys
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from goodcrate.settings import CHECKOUT

LOCKS = ("requirements.txt", "requirements-dev.txt")
ANSWERS_WITHIN_S = 5
"""An index that does not answer for so long is not reachable."""
ENDS_WITHIN_S = 120


@dataclass
class Audited:
    """What was found of one lock: how many packages were asked for and answered, and each known fault in a line."""

    lock: str
    asked: int = 0
    answered: int = 0
    faults: list[str] = field(default_factory=list)
    why_not: str = ""

    def __str__(self) -> str:
        if self.faults:
            return f"{self.lock}: " + "; ".join(self.faults)
        if not self.answered:
            return f"{self.lock}: NOT AUDITED, {self.why_not or 'the index knows none of it'}"
        left = self.asked - self.answered
        return f"{self.lock}: {self.answered} audited, no known fault" + (f"; {left} not known there" if left else "")


def read_pip_audit(lock: str, text: str) -> Audited:
    """What `pip-audit -f json` printed; anything else means that it got no answer."""
    try:
        packages = json.loads(text)["dependencies"]
    except (ValueError, KeyError, TypeError):
        return Audited(lock, why_not="the index is not reachable")
    known = [package for package in packages if "skip_reason" not in package]
    faults = [
        f"{package['name']} {package['version']}: {fault['id']}, mended in {fault['fix_versions'] or 'none yet'}"
        for package in known
        for fault in package["vulns"]
    ]
    return Audited(lock, len(packages), len(known), faults)


def read_npm_audit(lock: str, text: str) -> Audited:
    """What `npm audit --json` printed; anything else than a report means that it got no answer."""
    try:
        report = json.loads(text)
        count, found = report["metadata"]["dependencies"]["total"], report["vulnerabilities"]
    except (ValueError, KeyError, TypeError):
        return Audited(lock, why_not="the index does not answer")
    return Audited(lock, count, count, [f"{name}: {fault['severity']}" for name, fault in found.items()])


def _printed(command: Sequence[str | Path]) -> str:
    try:
        told = subprocess.run(command, cwd=CHECKOUT, check=False, capture_output=True, text=True, timeout=ENDS_WITHIN_S)
    except (OSError, subprocess.TimeoutExpired):
        return ""
    return told.stdout


def _audit_python(lock: str) -> Audited:
    how = ("--disable-pip", "--require-hashes", "-f", "json", "--progress-spinner", "off")
    command = [sys.executable, "-m", "pip_audit", "-r", lock, *how, "--timeout", str(ANSWERS_WITHIN_S)]
    return read_pip_audit(lock, _printed(command))


def _audit_scripts(lock: str) -> Audited:
    npm = shutil.which("npm", path=str(CHECKOUT / ".venv" / "node")) or "npm"
    patience = ("--fetch-retries=0", f"--fetch-timeout={ANSWERS_WITHIN_S * 1000}")
    return read_npm_audit(lock, _printed([npm, "audit", "--json", *patience]))


def main() -> int:
    """Audit every lock and say what was found; 1 when there is a known fault."""
    audited = [*map(_audit_python, LOCKS), _audit_scripts("package-lock.json")]
    for one in audited:
        print(f"  {one}")
    return int(any(one.faults for one in audited))


if __name__ == "__main__":
    sys.exit(main())

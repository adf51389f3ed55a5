"""The dependency audit: a known fault fails, and what was not asked is not called clean."""

import json

import pytest

from goodcrate import dependency_audit
from goodcrate.dependency_audit import read_npm_audit, read_pip_audit

CLEAN = {"name": "spoon", "version": "1.0", "vulns": []}
UNKNOWN = {"name": "ladle", "skip_reason": "Dependency not found"}
BROKEN = {"name": "sieve", "version": "2.1", "vulns": [{"id": "HOLE-1", "fix_versions": ["2.2"]}]}


def pip_said(*packages: object) -> str:
    return json.dumps({"dependencies": packages, "fixes": []})


def npm_said(**vulnerabilities: object) -> str:
    return json.dumps({"vulnerabilities": vulnerabilities, "metadata": {"dependencies": {"total": 40}}})


def test_a_known_fault_is_named() -> None:
    found = read_pip_audit("lock", pip_said(CLEAN, UNKNOWN, BROKEN))
    assert found.faults == ["sieve 2.1: HOLE-1, mended in ['2.2']"]
    assert str(read_pip_audit("lock", pip_said(CLEAN, UNKNOWN))) == "lock: 1 audited, no known fault; 1 not known there"
    assert read_npm_audit("lock", npm_said(whisk={"severity": "high"})).faults == ["whisk: high"]
    assert str(read_npm_audit("lock", npm_said())) == "lock: 40 audited, no known fault"


@pytest.mark.parametrize("said", ["", "no index", "{}", '{"error": {"summary": ""}}', "[]", pip_said(UNKNOWN)])
def test_what_was_not_asked_is_not_called_clean(said: str) -> None:
    found = [read_pip_audit("lock", said)]
    if "dependencies" not in said:
        found.append(read_npm_audit("lock", said))
    for one in found:
        assert "NOT AUDITED" in str(one)
        assert not one.faults


def test_a_known_fault_fails_and_silence_does_not(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(dependency_audit, "_printed", lambda _: "")
    assert dependency_audit.main() == 0
    monkeypatch.setattr(dependency_audit, "_printed", lambda _: pip_said(BROKEN))
    assert dependency_audit.main() == 1

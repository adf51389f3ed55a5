"""Settings are looked at before anything starts."""

import pytest
from typer.testing import CliRunner

from goodcrate.cli import app
from goodcrate.settings import OURS, Settings, WrongSettings, read_settings


def test_the_defaults_are_fine(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("GOODCRATE_PORT", "8123")
    for name in OURS:
        monkeypatch.setenv(name, "x")
    assert read_settings().port == 8123


@pytest.mark.parametrize(
    ("name", "value", "told"),
    [
        ("GOODCRATE_PORT", "many", "GOODCRATE_PORT: “many” cannot be used."),
        ("GOODCRATE_PORT", "70000", "GOODCRATE_PORT"),
        ("GOODCRATE_PROCESSES", "0", "GOODCRATE_PROCESSES: “0” cannot be used."),
        ("GOODCRATE_SIGN_UP", "maybe", "`invited`, by an invitation"),
        ("GOODCRATE_PROT", "8080", "GOODCRATE_PROT: there is no such setting; GOODCRATE_PORT is one."),
        ("GOODCRATE_DATABASE_URL", "sqlite:///x.db", "GOODCRATE_DATABASE_URL"),
        ("GOODCRATE_SESSION_DAYS", "-3", "GOODCRATE_SESSION_DAYS"),
    ],
)
def test_one_that_cannot_be_used_is_named_and_nothing_starts(
    name: str, value: str, told: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv(name, value)
    with pytest.raises(WrongSettings) as wrong:
        read_settings()
    assert told in str(wrong.value)
    done = CliRunner().invoke(app, ["start"])
    assert done.exit_code == 2
    assert told in done.output


def test_every_setting_says_what_it_is() -> None:
    assert all(field.description for field in Settings.model_fields.values())

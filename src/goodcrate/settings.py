"""Every setting, typed, with its default; each can be set as an environment variable `GOODCRATE_…`."""

import os
from collections.abc import Iterable
from difflib import get_close_matches
from pathlib import Path
from typing import Literal

from pydantic import Field, ValidationError
from pydantic_settings import BaseSettings, SettingsConfigDict

CHECKOUT = Path(__file__).resolve().parents[2]


class WrongSettings(Exception):
    """Settings that are not known, or cannot be used; a line for each."""


class Settings(BaseSettings):
    """Read once at start and passed down; nothing else reads the environment."""

    model_config = SettingsConfigDict(env_prefix="GOODCRATE_", extra="ignore")

    data_dir: Path = Field(CHECKOUT / "var" / "household", description="Folder of the embedded database and its keys.")
    database_url: str | None = Field(
        None,
        pattern=r"^mariadb\+pymysql://",
        description="SQLAlchemy address of an external MariaDB; unset: the embedded one in data_dir.",
    )
    host: str = Field("127.0.0.1", description="Address the app listens on.")
    port: int = Field(
        8080, ge=1, le=65_535, description="Port the app listens on; when it is taken the next free one is used."
    )
    processes: int = Field(
        1,
        ge=1,
        le=16,
        description="Processes that answer; with more than one, each is started again when it ends. For a "
        "worker: pieces of work at once.",
    )
    hosts: str = Field(
        "",
        description="Names the app answers to, with commas between, such as kitchen.example; its addresses and this "
        "machine's own name are always among them.",
    )
    trusted_proxies: str = Field(
        "",
        description="Addresses of a proxy in front of the app, such as 127.0.0.1: whose X-Forwarded-For and -Proto are "
        "believed. Unset: nobody's, anyone could write them.",
    )
    broker_url: str | None = Field(
        None,
        pattern=r"^rediss?://",
        description="Address of a Redis where long work waits for workers on whatever machine (`./crate worker`), such "
        "as redis://10.0.0.5:6379/0; unset: each piece of work is a process beside the app.",
    )
    catalogue_url: str | None = Field(
        None, description="Address of a barcode catalogue; unset: the stand-in that ships; `none`: no catalogue."
    )
    scale_url: str | None = Field(
        None,
        description="Address of a kitchen scale, such as tcp://192.168.1.20:7101 (docs/formats/scale-line.md); unset: "
        "a simulated one in the demo, else none; `simulated`: that one; `none`: no scale.",
    )
    printer_url: str | None = Field(
        None,
        description="Address of a label printer that takes PDFs by POST /jobs; unset: a stand-in in the demo, else "
        "none; `none`: no printer.",
    )
    sign_up: Literal["open", "invited", "closed"] = Field(
        "invited",
        description="Who may come in: `open`, anybody may make a household; `invited`, by an invitation's link only; "
        "`closed`, nobody. The very first household is always made by the first visit.",
    )
    metrics_key: str = Field(
        "", description="The key behind which /metrics shows how the server is doing; unset: nobody sees it."
    )
    log: Literal["text", "json"] = Field(
        "text", description="`text`: warnings and errors; `json`: a line for each request too, by its route."
    )
    session_days: int = Field(30, ge=1, le=3650, description="Days a sign-in lasts.")
    sign_in_failures: int = Field(
        5, ge=1, description="Failed sign-ins of a name from one place before each further one waits."
    )


OURS = frozenset({"GOODCRATE_HANDED_DOWN", "GOODCRATE_WORKER_DATABASE"})
"""What our own processes hand to each other the same way."""


def read_settings() -> Settings:
    """The settings as the environment has them.

    Raises:
        WrongSettings: naming each that is not known, or cannot be used, with what would be right.
    """
    known = {f"GOODCRATE_{name.upper()}" for name in Settings.model_fields}
    faults = [
        f"{name}: there is no such setting{_meant(name, known)}."
        for name in sorted(os.environ)
        if name.startswith("GOODCRATE_") and name not in known | OURS
    ]
    try:
        settings = Settings()
    except ValidationError as error:
        for fault in error.errors():
            name = str(fault["loc"][0])
            words = Settings.model_fields[name].description
            faults.append(
                f"GOODCRATE_{name.upper()}: “{fault['input']}” cannot be used. {fault['msg']}. It is: {words}"
            )
    else:
        if not faults:
            return settings
    raise WrongSettings("\n".join(faults))


def _meant(name: str, known: Iterable[str]) -> str:
    close = get_close_matches(name, known, 1)
    return f"; {close[0]} is one" if close else ""

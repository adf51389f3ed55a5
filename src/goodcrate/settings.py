"""Every setting, typed, with its default; each can be set as an environment variable `GOODCRATE_…`."""

from pathlib import Path
from typing import Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

CHECKOUT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """Read once at start and passed down; nothing else reads the environment."""

    model_config = SettingsConfigDict(env_prefix="GOODCRATE_", extra="ignore")

    data_dir: Path = Field(CHECKOUT / "var" / "household", description="Folder of the embedded database and its keys.")
    database_url: str | None = Field(
        None, description="SQLAlchemy address of an external MariaDB; unset: the embedded one in data_dir."
    )
    host: str = Field("127.0.0.1", description="Address the app listens on.")
    port: int = Field(8080, description="Port the app listens on; when it is taken the next free one is used.")
    processes: int = Field(
        1, ge=1, le=16, description="Processes that answer; with more than one, each is started again when it ends."
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
    session_days: int = Field(30, description="Days a sign-in lasts.")
    sign_in_failures: int = Field(
        5, description="Failed sign-ins of a name from one place before each further one waits."
    )

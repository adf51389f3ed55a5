"""Bring a database to the newest tables."""

from pathlib import Path

from alembic import command
from alembic.config import Config

MIGRATIONS = Path(__file__).parent / "migrations"


def alembic_config(url: str) -> Config:
    """Alembic's settings for one database."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["url"] = url
    return config


def upgrade(url: str, revision: str = "head") -> None:
    """Run every migration the database has not seen. DDL is not transactional here: one step per migration."""
    command.upgrade(alembic_config(url), revision)

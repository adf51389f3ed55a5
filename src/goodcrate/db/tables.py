"""Every table, imported in one place so that migrations see them all."""

from goodcrate.db import (
    accounts,
    archive,
    at_table,
    changes,
    cook,
    foods,
    jobs,
    kitchen,
    recipes,
    reports,
    review,
    running,
    shop,
    store,
    targets,
    week,
)
from goodcrate.db.base import Base

METADATA = Base.metadata
MODULES = (
    accounts,
    archive,
    at_table,
    changes,
    cook,
    foods,
    jobs,
    shop,
    store,
    kitchen,
    recipes,
    reports,
    review,
    running,
    targets,
    week,
)

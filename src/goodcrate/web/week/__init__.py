"""Pages of the stage “week”."""

from goodcrate.web.week.routes import router

__all__ = ["router"]

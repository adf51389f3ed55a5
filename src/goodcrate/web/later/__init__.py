"""Pages of the stages that are not built yet."""

from goodcrate.web.later.routes import router

__all__ = ["router"]

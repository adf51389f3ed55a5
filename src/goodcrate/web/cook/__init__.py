"""Pages of the stage “cook”."""

from goodcrate.web.cook.routes import router

__all__ = ["router"]

"""Pages of the stage “foods”."""

from goodcrate.web.foods.routes import router

__all__ = ["router"]

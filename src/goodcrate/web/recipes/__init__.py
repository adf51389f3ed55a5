"""Pages of the stage “recipes”."""

from goodcrate.web.recipes.routes import router

__all__ = ["router"]

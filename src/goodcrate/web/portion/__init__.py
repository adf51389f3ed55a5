"""Pages of the stage “portion”."""

from goodcrate.web.portion.routes import router

__all__ = ["router"]

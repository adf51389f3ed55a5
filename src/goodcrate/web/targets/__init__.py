"""Pages of the stage “targets”."""

from goodcrate.web.targets.routes import router

__all__ = ["router"]

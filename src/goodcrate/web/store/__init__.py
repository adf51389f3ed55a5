"""The Store stage: what is in the house already."""

from goodcrate.web.store.routes import router

__all__ = ["router"]

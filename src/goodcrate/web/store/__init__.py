"""What is in the house already. Imports services, core and the shared parts of web."""

from goodcrate.web.store.routes import router

__all__ = ["router"]

"""A week looked back on. Imports services, core and the shared parts of web."""

from goodcrate.web.review.routes import router

__all__ = ["router"]

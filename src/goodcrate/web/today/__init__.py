"""A day at the table, on a phone first. Imports services, core and the shared parts of web."""

from goodcrate.web.today.routes import router

__all__ = ["router"]

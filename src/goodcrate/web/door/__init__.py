"""The door: first run, signing in, signing out, and the start page."""

from goodcrate.web.door.routes import router

__all__ = ["router"]

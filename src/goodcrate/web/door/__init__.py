"""The door: first run, signing in, signing out, passkeys, and the start page."""

from goodcrate.web.door import passkeys
from goodcrate.web.door.routes import router

router.include_router(passkeys.router)

__all__ = ["router"]

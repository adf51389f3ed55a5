"""Who may go where. Every address that asks who is there passes here (`security.require_visitor`): what is not named is
for cooks, so a new page is never open to more people than it should be."""

from starlette.requests import Request

from goodcrate.core.ground.roles import COOK, EATER, OWNER

FOR_OWNERS = ("/people", "/archive")
"""The addresses, and all below them, that are the owner's alone: the people, and the data as a whole."""
FOR_EATERS = frozenset(
    {
        "/",
        "/today",
        "/today/worker.js",
        "/today/done",
        "/today/off-plan",
        "/today/off-plan/{noted_id}/back",
        "/today/{first_day}/undo",
        "/today/{first_day}/{meal_id}/eaten",
        "/today/{first_day}/{meal_id}/swap",
        "/today/{first_day}/{meal_id}/weighed",
        "/box/{box_id}",
        "/box/{box_id}/said",
        "/box/{box_id}/undo",
        "/account",
        "/account/password",
        "/account/code",
        "/account/leave",
        "/account/sign-out-everywhere",
        "/account/browsers/{key}/sign-out",
        "/account/passkeys/ask",
        "/account/passkeys",
        "/account/passkeys/{key}/remove",
        "/sign-out",
    }
)
"""The addresses of somebody who only eats. Whose box it is, their services look at (`Caller.acts_for`)."""


def may_go(role: str, path: str) -> bool:
    """Whether somebody of a role may ask an address, given as its route names it."""
    if role == OWNER:
        return True
    if role == EATER:
        return path in FOR_EATERS
    return role == COOK and not any(path == place or path.startswith(f"{place}/") for place in FOR_OWNERS)


def route_of(request: Request) -> str:
    """The address of a request as its route names it."""
    route = request.scope.get("route")
    return str(getattr(route, "path", "") or request.url.path)

"""The one router of foods; label, exchange and routes put their pages on it, `/foods/{key}` last."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/foods", route_class=AgainRoute)

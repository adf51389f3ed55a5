"""The one router of cooking; the kitchen puts its pages on it first, `/cook/{first_day}` comes last."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/cook", route_class=AgainRoute)

"""The addresses of the review: one router for its modules."""

from fastapi import APIRouter

from goodcrate.web.again import AgainRoute

router = APIRouter(prefix="/review", route_class=AgainRoute)

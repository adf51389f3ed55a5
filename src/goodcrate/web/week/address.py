"""The one router of the week."""

from fastapi import APIRouter

router = APIRouter(prefix="/week")

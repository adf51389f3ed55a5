"""The one router of cooking; the kitchen puts its pages on it first, `/cook/{first_day}` comes last."""

from fastapi import APIRouter

router = APIRouter(prefix="/cook")

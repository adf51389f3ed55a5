"""Times by the clock on a kitchen's wall, also in the night in which the clocks change."""

from datetime import datetime, timedelta


def minutes_later(at: datetime, minutes: int) -> datetime:
    """What the wall says so many minutes after it said `at` (both without a zone: this machine's is meant)."""
    return (at.astimezone() + timedelta(minutes=minutes)).astimezone().replace(tzinfo=None)

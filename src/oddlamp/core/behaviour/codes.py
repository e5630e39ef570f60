"""The codes that an infra-red LED sends, one after the other."""

from collections.abc import Collection
from typing import Final

from oddlamp.core.behaviour.clock import is_due, later
from oddlamp.core.behaviour.lamps import Lamp

CODE_MS: Final = 110  # a frame of 67.5 ms and its pause, from memory
CODES_MOST: Final = 8  # that wait


def put_code(lamp: Lamp, code: int, now_ms: int) -> bool:
    """Put a code behind those that wait; False where as many wait as may."""
    if len(lamp.queue) > CODES_MOST:
        return False
    lamp.queue.append(code)
    if lamp.sends_until_ms is None:
        lamp.sends_until_ms = later(now_ms, CODE_MS)
    return True


def put_first(lamp: Lamp, code: int, instead_of: Collection[int], now_ms: int) -> None:
    """Put a code before those that wait, in the place of some of them: what stops a thing is never dropped."""
    lamp.queue[1:] = [code, *(it for it in lamp.queue[1:] if it not in instead_of)] if lamp.queue else []
    if not lamp.queue:
        put_code(lamp, code, now_ms)


def send_on(lamp: Lamp, now_ms: int) -> None:
    """Let the code that went out go, and the next one begin, where its time has come."""
    if lamp.sends_until_ms is not None and is_due(lamp.sends_until_ms, now_ms):
        lamp.queue.pop(0)
        lamp.sends_until_ms = later(lamp.sends_until_ms, CODE_MS) if lamp.queue else None


def drop_codes(lamp: Lamp) -> None:
    """Send nothing more, and end what goes out."""
    lamp.queue.clear()
    lamp.sends_until_ms = None

"""What a test run takes of many cases, and `make proof` takes whole."""

import os
from collections.abc import Iterable
from typing import Final, TypeVar

IS_PROOF: Final = "ODDLAMP_PROOF" in os.environ
Case = TypeVar("Case")


def some(cases: Iterable[Case], every: int, first: int = 0) -> list[Case]:
    """Return each so-manieth of many cases that are alike, from one of them on; all of them in the proof."""
    return list(cases) if IS_PROOF else list(cases)[first::every]

"""Grammar helpers: counts with their noun, lists, articles, and names inside a sentence."""

from collections.abc import Sequence


def plural(count: int, one: str, many: str | None = None) -> str:
    """Write a count with its noun: ``plural(2, "lamp")`` is ``2 lamps``."""
    return f"{count} {one if count == 1 else many or one + 's'}"


def and_list(parts: Sequence[str]) -> str:
    """Write a list as people say it: ``a, b and c``."""
    return " and ".join([", ".join(parts[:-1]), parts[-1]]) if len(parts) > 1 else "".join(parts)


def inner(text: str) -> str:
    """Write a name as it reads inside a sentence: ``Board`` as ``board``, but ``MOSFET`` and ``Wi-Fi board`` as they are."""
    first = text.split(" ", 1)[0].rstrip(",.:")
    return text[:1].lower() + text[1:] if first[1:].islower() or len(first) == 1 else text


def offered(label: str) -> str:
    """Write a part as it is offered: ``a red``, ``an orange``, ``three AAA cells``."""
    text = inner(label)
    if text.partition(",")[0].endswith("s"):
        return text
    return f"{'an' if text[0].lower() in 'aeio' else 'a'} {text}"  # a USB port: said with a y

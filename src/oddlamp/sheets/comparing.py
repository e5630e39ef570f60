"""Two runs of one take held against each other: what is lost now that was not, what light comes earlier, later or not at all."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Final, Literal

from oddlamp.core.base import Model, si
from oddlamp.core.english import plural
from oddlamp.core.rehearsal.trace import LampLook, Trace

SAME_S: Final = 0.002
SAME_LIGHT: Final = 0.01
DIFFERENCES_MOST: Final = 12


class Difference(Model):
    """Something that is otherwise now."""

    where: str
    text: str
    weight: Literal["worse", "other", "better"]


class TakeCompared(Model):
    """A take then and now: one sentence that is the answer, and all that is otherwise."""

    sentence: str
    differences: tuple[Difference, ...]


def compare(
    before: Trace,
    now: Trace,
    looks: tuple[Mapping[str, Sequence[LampLook]], Mapping[str, Sequence[LampLook]]],
    titles: Mapping[str, str],
) -> TakeCompared:
    """Hold two runs of the same events against each other; ``looks`` are what the lamps looked like, then and now."""
    found = [*_losses(before, now), *_lights(*looks, titles), *_said(before, now)]
    if not found:
        return TakeCompared(sentence="It runs exactly as it did then.", differences=())
    order = {"worse": 0, "other": 1, "better": 2}
    found.sort(key=lambda it: order[it.weight])
    first = "; ".join(it.text for it in found[:2])
    more = f"; {plural(len(found) - 2, 'other thing')} differ" if len(found) > 2 else ""
    return TakeCompared(sentence=f"{first[0].upper()}{first[1:]}{more}.", differences=tuple(found[:DIFFERENCES_MOST]))


def _losses(before: Trace, now: Trace) -> Iterator[Difference]:
    was, is_now = ({it.message for it in trace.lost} for trace in (before, now))
    if len(was) != len(is_now):
        fewer = len(is_now) < len(was)
        because = next((it.lost_because for it in now.lost), None)
        told = f"{plural(len(is_now), 'message')} lost, {len(was)} then"
        yield Difference(
            where="messages", text=f"{told}: {because}" if because and not fewer else told, weight="better" if fewer else "worse"
        )


def _lights(
    before: Mapping[str, Sequence[LampLook]], now: Mapping[str, Sequence[LampLook]], titles: Mapping[str, str]
) -> Iterator[Difference]:
    for stage in dict.fromkeys([*before, *now]):
        was, is_now = _course(before.get(stage, ())), _course(now.get(stage, ()))
        name = titles.get(stage, stage)
        if _alike(was, is_now):
            continue
        if not is_now or not any(light for _, light, _ in is_now):
            if any(light for _, light, _ in was):
                yield Difference(where=stage, text=f"{name} stays dark, which was lit then", weight="worse")
        elif not was or not any(light for _, light, _ in was):
            yield Difference(where=stage, text=f"{name} is lit, which stayed dark then", weight="better")
        else:
            yield Difference(where=stage, text=_later(name, was, is_now), weight="other")


Course = list[tuple[float, float, str]]


def _course(looks: Sequence[LampLook]) -> Course:
    """Return when a lamp changes for the eye, and to what."""
    course: Course = []
    for it in looks:
        now = it.light_ratio, it.text or it.pixels or it.colour
        if not course or abs(course[-1][1] - now[0]) > SAME_LIGHT or (now[0] > 0 and course[-1][2] != now[1]):
            course.append((it.t_s, *now))
    return course


def _alike(was: Course, now: Course) -> bool:
    return len(was) == len(now) and all(
        abs(a[0] - b[0]) <= SAME_S and abs(a[1] - b[1]) <= SAME_LIGHT and (a[2] == b[2] or not a[1])
        for a, b in zip(was, now, strict=True)
    )


def _later(name: str, was: Course, now: Course) -> str:
    """Say how a lamp's course differs: at its end where it comes to the same, else from where on."""
    gap_s = now[-1][0] - was[-1][0]
    if abs(was[-1][1] - now[-1][1]) <= SAME_LIGHT and abs(gap_s) > SAME_S:
        return f"{name} ends {si(abs(gap_s), 's')} {'later' if gap_s > 0 else 'earlier'}"
    at_s = next((b[0] for a, b in zip(was, now, strict=False) if a != b), now[-1][0])
    if abs(was[-1][1] - now[-1][1]) > SAME_LIGHT:
        return f"{name} ends at {si(now[-1][1], 'ratio')} of its light, {si(was[-1][1], 'ratio')} then"
    return f"{name} is otherwise from {si(at_s, 's')} on"


def _said(before: Trace, now: Trace) -> Iterator[Difference]:
    was, is_now = len(before.answered), len(now.answered)
    if was != is_now:
        yield Difference(
            where="answers",
            text=f"{plural(is_now, 'answer')} came back, {was} then",
            weight="worse" if is_now < was else "better",
        )

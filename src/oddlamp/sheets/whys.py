"""The fault finder as it is shown: what was seen, what to do next and why, what may be wrong, and what mends it."""

from collections.abc import Collection, Mapping, Sequence
from typing import TYPE_CHECKING, Final, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.checks.findings import Finding
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, inner
from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.find import Search, Told, measured_answers
from oddlamp.core.finding.knowledge import MENDED, NEEDS, PLACES, Cause, Knowledge, Need
from oddlamp.core.finding.metering import step_ids
from oddlamp.core.finding.symptoms import can_show
from oddlamp.core.finding.way import Way
from oddlamp.core.modules.goals import believed_of
from oddlamp.sheets.bringup import at_work, should_be

if TYPE_CHECKING:
    from oddlamp.core.reasoning import Next

LIKELY_MOST: Final = 5
LEADS_MOST: Final = 2
RULED_MOST: Final = 3
TOLD_SHARE: Final = 0.02
LEAST_GIVES: Final = 0.02  # of what is likely: an outcome that less than this gives is unusual here
TENTHS_MOST: Final = 9
OF_MANY: Final = frozenset({"not measured", "mock-up"})  # speak for so many that they are told once
PROGRAM_KEYS: Final = frozenset({"rules", "cues", "vocabularies", "signals", "lamps", "talks", "inputs"})
STATES: Final = {
    "not measured": "its bring-up has no reading yet",
    "mock-up": "it is on a breadboard",
    "not set": "nobody has read the module back",
    "changed last": "the plan was changed last where the program follows from it",
}


class LampChoice(Model):
    """A lamp that can be followed."""

    id: str
    label: str


class Worded(Model):
    """Something to choose, in words by its id."""

    id: str
    words: str


class CauseShown(Model):
    """What may be wrong: where, how likely in words and as a share, what in the plan speaks for it, and what mends it."""

    id: str
    what: str
    where: str
    share: str
    share_ratio: float
    because: str = ""
    mend: str
    test: str = Field(description="The test that its mending is")


class OutcomeShown(Model):
    """One outcome of a test, and what it would lead to."""

    id: str
    words: str
    leads: str


class AskedShown(Model):
    """What to do next: what it takes, why it was chosen, and where it is measured."""

    id: str
    do: str
    minutes: float
    why: str
    outcomes: tuple[OutcomeShown, ...]
    step: str = Field(default="", description="The step of the bring-up that measures it")
    should_be: str = ""
    where: str = ""
    caution: str = ""


class AnsweredShown(Model):
    """What was answered: in words, what it ruled out, and whether it speaks against what the others say."""

    id: str
    do: str
    outcome: str | None
    words: str
    ruled_out: str
    is_measured: bool
    is_doubtful: bool
    outcomes: tuple[Worded, ...]


class WayOut(Model):
    """A verdict of the plan that speaks for what was found: its ways out are the plan's own."""

    key: str
    stage: str
    sentence: str


class MendShown(Model):
    """What to mend, what to check after, and the test that its mending is."""

    what: str
    test: str
    is_done: bool = Field(description="Whether it was mended, and works")
    mend: str
    after: str
    after_step: str
    alike: tuple[str, ...] = Field(description="What nothing at hand tells from it")
    ways_out: tuple[WayOut, ...]


class EntryToKeep(Model):
    """The path as an entry of the log: a fault, or one that was mended."""

    kind: Literal["fault", "fixed"]

    text: str
    stage: str
    minutes: int


class WhyShown(Model):
    """The search as it stands. Without a symptom there is only what to choose from."""

    lamps: tuple[LampChoice, ...]
    lamp: str
    left_out: str = Field(description="Which lamps cannot be followed, and why")
    symptoms: tuple[Worded, ...]
    needs: tuple[Worded, ...]
    sentence: str = ""
    detail: str = ""
    minutes: float = 0.0
    likely: tuple[CauseShown, ...] = ()
    asked: AskedShown | None = None
    answered: tuple[AnsweredShown, ...] = ()
    mend: MendShown | None = None
    entry: EntryToKeep | None = None


def facts_of(design: Design, findings: Sequence[Finding], touched: Collection[str]) -> frozenset[str]:
    """Return what the plan says that raises odds: codes of its verdicts, those that were accepted among them, and how it stands.

    Args:
        design: the plan worked out.
        findings: all of its verdicts.
        touched: the parts of the plan that were changed last.
    """
    bench = design.plan.bench
    found = bench.checked.get(at_work(design, None), {}) if bench is not None else {}
    modules = [it for it in design.nodes.values() if it.node.kind == "module"]
    states = {
        "not measured": not any(it.value is not None for it in found.values()),
        "mock-up": at_work(design, None) == "mock_up",
        "not set": any(believed_of(design, it).state in ("new", "differs", "unknown") for it in modules),
        "changed last": not PROGRAM_KEYS.isdisjoint(touched),
    }
    return frozenset({it.code for it in findings} | {name for name, is_so in states.items() if is_so})


def why_shown(
    ways: Sequence[Way],
    design: Design,
    known: Knowledge,
    findings: Sequence[Finding],
    *,
    lamp: str = "",
    symptom: str = "",
    answers: Mapping[str, str | None] | None = None,
    lacking: Collection[Need] = (),
    touched: Collection[str] = (),
) -> WhyShown:
    """Show a search: what to choose from, and where a symptom was told what to do next.

    Raises:
        OutOfRange: no such lamp, symptom or outcome.
    """
    given = dict(answers or {})
    lamps = tuple(LampChoice(id=it.lamp.id, label=it.lamp.label) for it in ways)
    needs = tuple(Worded(id=name, words=words) for name, words in NEEDS.items())
    left_out = _left_out(design, ways)
    if not ways:
        return WhyShown(lamps=(), lamp="", left_out=left_out, symptoms=(), needs=needs)
    way = next((it for it in ways if it.lamp.id == lamp), None) if lamp else ways[0]
    if way is None:
        raise OutOfRange(field="lamp", given=lamp[:60], allowed="one of " + ", ".join(it.id for it in lamps)[:600])
    base = Search(
        way, known, symptom or known.symptoms[0].id, lacking=lacking, facts=facts_of(design, findings, touched), mended=given
    )
    made = {name for cause in base.causes for name in cause.makes_on(base.features)}
    symptoms = tuple(Worded(id=it.id, words=it.words) for it in known.symptoms if it.id in made and can_show(way, it.id))
    head: dict[str, object] = {"lamps": lamps, "lamp": way.lamp.id, "left_out": left_out, "symptoms": symptoms, "needs": needs}
    if not symptom:
        return WhyShown.model_validate(head)
    return _searched(base, {**_measured(way, given), **given}, given, findings, head)


def _measured(way: Way, given: Mapping[str, str | None]) -> dict[str, str | None]:
    """Return what the bring-up has measured, where it was not answered otherwise."""
    bench, now = way.design.plan.bench, at_work(way.design, None)
    values = {
        name: it.value for name, it in (bench.checked.get(now, {}) if bench is not None else {}).items() if it.value is not None
    }
    return {name: it for name, it in measured_answers(way, values).items() if name not in given}


def _left_out(design: Design, ways: Sequence[Way]) -> str:
    there = {it.lamp.id for it in ways}
    others = [it.label for it in design.lamps.values() if it.id not in there]
    if not design.lamps:
        return "There is no lamp in this plan yet."
    if not others:
        return ""
    which = and_list(others[:RULED_MOST]) + (f" and {len(others) - RULED_MOST} more" if len(others) > RULED_MOST else "")
    return f"{which} cannot be followed: LEDs, strips and chains can, where something that is pressed lights them in a rehearsal."


def _searched(
    search: Search,
    answers: Mapping[str, str | None],
    given: Mapping[str, str | None],
    findings: Sequence[Finding],
    head: dict[str, object],
) -> WhyShown:
    known, way = search.known, search.way
    answers = {name: it for name, it in answers.items() if name in search.there}
    shares = search.shares(answers)
    ranked = sorted(shares, key=lambda it: -shares[it])
    doubtful, told = search.doubtful(answers), search.told(answers)
    spent = search.minutes({name: it for name, it in answers.items() if name in given})
    ending = search.ending(answers, spent)
    asked = None if ending is not None else search.next(answers, spent)
    first = known.cause[search.worked(answers) or ranked[0]]
    symptom = known.symptom[search.symptom].words
    return WhyShown.model_validate(
        {
            **head,
            "sentence": f"{way.lamp.label}: {inner(symptom)}.",
            "detail": _detail(ending, first, shares[first.id], search, doubtful, answers),
            "minutes": spent,
            "likely": tuple(
                _cause_shown(search, it, shares[it], findings) for it in ranked[:LIKELY_MOST] if shares[it] >= TOLD_SHARE
            ),
            "asked": None if asked is None else _asked_shown(search, asked, shares),
            "answered": tuple(_answered_shown(search, it, given, doubtful) for it in told),
            "mend": None if ending is None else _mend(search, first, findings, answers),
            "entry": _entry(search, told, first, shares[first.id], spent, symptom) if told else None,
        }
    )


def share_text(ratio: float) -> str:
    """Say how likely something is: never certain."""
    tenths = min(round(10 * ratio), TENTHS_MOST)
    return f"{tenths} in 10" if tenths >= 1 else "less"


def _detail(
    ending: str | None, first: Cause, share: float, search: Search, doubtful: Collection[str], answers: Mapping[str, str | None]
) -> str:
    if doubtful:
        tests = [search.known.test[it].do for it in doubtful]
        return f"What was answered does not go together. Do this once more: {' And: '.join(tests)}"
    if answers.get(f"{MENDED}{first.id}") == "works":
        return "Mended. Check it once more as below, and again tomorrow if it came and went."
    if ending == "found":
        return f"{share_text(share)} that it is this, and never certain."
    if ending == "nothing left":
        return "Nothing that can be done with what is at hand tells more. The likeliest is told; what is alike stands beside it."
    if ending == "time":
        return "An hour has gone into it. Mend the likeliest, and begin anew if that was not it."
    if answers:
        return ""
    unread = (
        " Its bring-up has no reading yet, so what is built otherwise than planned is likelier."
        if "not measured" in search.facts
        else ""
    )
    return f"Never certain, and nearer with every answer.{unread}"


def _cause_shown(search: Search, cause_id: str, share: float, findings: Sequence[Finding]) -> CauseShown:
    cause = search.known.cause[cause_id]
    said = {it.code: f"a verdict says: {it.message.removesuffix('.')}" for it in findings}
    because = [STATES.get(it) or said[it] for it in search.raised_by(cause) if it not in OF_MANY]
    return CauseShown(id=cause.id, what=cause.what, where=PLACES[cause.where], share=share_text(share), share_ratio=round(share, 3), because=and_list(because), mend=cause.mend, test=f"{MENDED}{cause.id}")  # fmt: skip


def _asked_shown(search: Search, asked: "Next", shares: Mapping[str, float]) -> AskedShown:
    test, way = search.known.test[asked.id], search.way
    outcomes = []
    for name, leaves in zip(test.outcomes, asked.leaves, strict=True):
        ranked = sorted(zip(leaves, search.case.causes, strict=True), reverse=True)[:LEADS_MOST]
        gives = sum(it for cause, it in shares.items() if name in test.given(cause, search.features))
        if name != test.usual and gives < LEAST_GIVES:
            outcomes.append(OutcomeShown(id=name, words=test.outcomes[name], leads="unusual here: look once more"))
            continue
        likely = [f"{search.known.cause[cause].what} ({share_text(share)})" for share, cause in ranked if share >= 0.1]
        outcomes.append(OutcomeShown(id=name, words=test.outcomes[name], leads="; ".join(likely)))
    step = next((it for it in way.steps if it.id == step_ids(way).get(test.id)), None)
    return AskedShown(
        id=test.id,
        do=test.do,
        minutes=test.minutes,
        why=_why(asked),
        caution=" ".join(dict.fromkeys(it for it in (test.caution, step.caution if step is not None else "") if it)),
        outcomes=tuple(outcomes),
        step="" if step is None else step.id,
        should_be="" if step is None else should_be(step),
        where="" if step is None or step.red is None or step.black is None else f"red on {way.of.name(step.red)}, black on {way.of.name(step.black)}",
    )  # fmt: skip


def _why(asked: "Next") -> str:
    from oddlamp.core.reasoning import ENOUGH_SHARE  # half a second to import, and not needed before something is wrong

    takes = minutes_text(asked.minutes)
    best = max(max(it) for it in asked.leaves)
    if best >= ENOUGH_SHARE:
        return f"It takes {takes}, and one of its outcomes all but settles it."
    return f"It takes {takes}, and of all that can be done tells most for its time, with what would come after it."


def minutes_text(minutes: float) -> str:
    """Say how long something takes."""
    return "half a minute" if minutes == 0.5 else "a minute" if minutes == 1 else f"{minutes:g} minutes"


def _answered_shown(search: Search, told: Told, given: Mapping[str, str | None], doubtful: Collection[str]) -> AnsweredShown:
    test = search.known.test[told.test]
    out = [inner(search.known.cause[it].what) for it in told.ruled_out]
    more = f", and {len(out) - RULED_MOST} more" if len(out) > RULED_MOST else ""
    return AnsweredShown(
        id=test.id,
        do=test.do,
        outcome=told.outcome,
        words="can't say" if told.outcome is None else test.outcomes[told.outcome],
        ruled_out=f"Speaks against: {'; '.join(out[:RULED_MOST])}{more}." if out else "",
        is_measured=told.test not in given,
        is_doubtful=told.test in doubtful,
        outcomes=tuple(Worded(id=name, words=words) for name, words in test.outcomes.items()),
    )


def _mend(search: Search, cause: Cause, findings: Sequence[Finding], answers: Mapping[str, str | None]) -> MendShown:
    after = search.known.test[cause.after]
    ways_out = tuple(WayOut(key=it.key, stage=it.stage, sentence=it.message) for it in findings if it.code in cause.raised)
    alike = tuple(search.known.cause[it].what for it in search.alike(cause.id) if it != cause.id)
    return MendShown(what=cause.what, test=(test := f"{MENDED}{cause.id}"), is_done=answers.get(test) == "works", mend=cause.mend, after=after.do, after_step=step_ids(search.way).get(after.id, ""), alike=alike, ways_out=ways_out)  # fmt: skip


def _entry(search: Search, told: Sequence[Told], first: Cause, share: float, minutes: float, symptom: str) -> EntryToKeep:
    lines = [f"{symptom}: {search.way.lamp.label}."]
    for it in told:
        test = search.known.test[it.test]
        lines.append(f"{test.do} {'Could not say' if it.outcome is None else test.outcomes[it.outcome].capitalize()}.")
    is_mended = any(it.test == f"{MENDED}{first.id}" and it.outcome == "works" for it in told)
    if not is_mended:
        lines.append(f"Most likely, {share_text(share)}: {first.what}. {first.mend}")
    return EntryToKeep(
        kind="fixed" if is_mended else "fault",
        text="\n".join(lines)[:4000],
        stage=search.way.lamp.stage,
        minutes=max(round(minutes), 1),
    )

"""Plan documents in and out: reading with every fault named, writing what was decided, merge patches."""

import json
from collections.abc import Iterable, Mapping
from typing import Any, Final

from pydantic import ValidationError

from oddlamp.core.errors import FieldProblem, PlanInvalid, PlanTooNew
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.old_built import by_place

SCHEMA_VERSION: Final = 1
DEPTH_MOST: Final = 24
PLAN_MOST_BYTES: Final = 2_000_000
PROBLEMS_MOST: Final = 24
Document = dict[str, Any]


def load_plan(document: Any) -> Plan:
    """Read a plan document.

    Args:
        document: what a JSON reader gave; quantities may be text (``"4k7"``).
    Returns:
        The plan, quantities in unprefixed SI units.
    Raises:
        PlanTooNew: the document was written by a later version.
        PlanInvalid: one or more fields cannot be read; all are listed.
    """
    if not isinstance(document, Mapping):
        raise PlanInvalid(field="plan", given=type(document).__name__, allowed="a JSON object")
    refuse_deep(document, "plan")
    version = document.get("schema_version")
    if isinstance(version, int) and not isinstance(version, bool) and version > SCHEMA_VERSION:
        raise PlanTooNew(
            field="schema_version", given=version, allowed=f"at most {SCHEMA_VERSION}; a later Odd Lamp wrote this plan"
        )
    try:
        return Plan.model_validate(document)
    except ValidationError as error:
        problems = field_problems(error, document)
        first = problems[0]
        raise PlanInvalid(field=first.field, given=first.given, allowed=first.allowed, problems=problems) from None


def refuse_deep(document: Any, field: str) -> None:
    """Refuse a document nested deeper than any plan is; walks it level by level, so that it cannot exhaust the stack.

    Raises:
        PlanInvalid: more than ``DEPTH_MOST`` levels.
    """
    level, depth = [document], 0
    while level:
        depth += 1
        if depth > DEPTH_MOST:
            raise PlanInvalid(field=field, given=f"over {DEPTH_MOST} levels deep", allowed=f"at most {DEPTH_MOST} levels")
        level = [
            inner
            for it in level
            for inner in (it.values() if isinstance(it, dict) else it if isinstance(it, list) else ())
            if isinstance(inner, (dict, list))  # not the abstract Mapping: asking for that takes ten times as long
        ]


def refuse_large(document: Document) -> None:
    """Refuse a plan that could not be read from a file again.

    Raises:
        PlanInvalid: over ``PLAN_MOST_BYTES`` as a file.
    """
    size = len(json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode())
    if size > PLAN_MOST_BYTES:
        raise PlanInvalid(
            field="plan",
            given=f"{size / 1e6:.1f} MB as a file",
            allowed=f"at most {PLAN_MOST_BYTES / 1e6:g} MB; measurements and notes no longer needed can be taken out",
        )


def dump_plan(plan: Plan, only: Mapping[str, set[str]] | None = None) -> Document:
    """Write a plan as plain JSON data: what was decided, nothing derived, no defaults filled in.

    Args:
        plan: the plan.
        only: which entries of which of its collections are wanted; None for all there is.
    """
    return plan.model_dump(mode="json", exclude_unset=True, include=None if only is None else dict(only))


def merge_patch(target: Any, patch: Any) -> Any:
    """Apply a JSON merge patch (RFC 7396, section 2): null removes, objects merge, all else replaces."""
    if not isinstance(patch, Mapping):
        return patch
    merged = dict(target) if isinstance(target, Mapping) else {}
    for key, value in patch.items():
        if value is None:
            merged.pop(key, None)
        else:
            merged[key] = merge_patch(merged.get(key), value)
    return merged


def patch_between(before: Document, after: Document) -> Document:
    """Return the merge patch that makes one document of another; neither holds a null."""
    patch: Document = {field: None for field in before if field not in after}
    for field, wanted in after.items():
        held = before.get(field)
        if isinstance(held, Mapping) and isinstance(wanted, Mapping):
            if inner := patch_between(dict(held), dict(wanted)):
                patch[field] = inner
        elif held != wanted or field not in before:
            patch[field] = wanted
    return patch


def join_patches(patches: Iterable[Document]) -> Document:
    """Put merge patches together into one; unlike applying them, this keeps the nulls of all."""
    whole: Document = {}
    for patch in patches:
        _join(whole, patch)
    return whole


def _join(whole: Document, patch: Document) -> None:
    for key, value in patch.items():
        if isinstance(value, dict):
            inner = whole.get(key)
            if not isinstance(inner, dict):
                inner = whole[key] = {}
            _join(inner, value)
        else:
            whole[key] = value


def without_nulls(patch: Document) -> Document:
    """Return a merge patch that only adds and replaces, and clears nothing; what is left empty by that is left out."""
    kept: Document = {}
    for key, value in patch.items():
        inner = without_nulls(value) if isinstance(value, dict) else value
        if inner is not None and (inner != {} or value == {}):
            kept[key] = inner
    return kept


def edit_plan(plan: Plan, patch: Document) -> Plan:
    """Apply a merge patch to a plan and read the result; text quantities in the patch are parsed.

    Raises:
        PlanInvalid: the patched document cannot be read.
    """
    return edit_document(dump_plan(plan), patch)


def edit_document(document: Document, patch: Document) -> Plan:
    """Apply a merge patch to a plan as it was written, which earlier versions did in their way, and read the result.

    Raises:
        PlanInvalid: the patched document cannot be read.
    """
    if not isinstance(patch, Mapping):
        raise PlanInvalid(field="patch", given=type(patch).__name__, allowed="a JSON object (merge patch, RFC 7396)")
    refuse_deep(patch, "patch")
    return load_plan(merge_patch(by_place(document), patch))


def at_path(path: tuple[str, ...], value: Any) -> Document:
    """Build the merge patch that puts one value at a path: ``at_path(("a", "b"), 1)`` is ``{"a": {"b": 1}}``."""
    patch: Any = value
    for key in reversed(path):
        patch = {key: patch}
    return patch if isinstance(patch, dict) else {}


def field_problems(error: ValidationError, document: Any) -> tuple[FieldProblem, ...]:
    """Say of refused fields where they are, what was given and what is allowed: the first of them, and how many more there are."""
    found = error.errors(include_url=False)
    problems = [_problem(item, document) for item in found[:PROBLEMS_MOST]]
    if len(found) > PROBLEMS_MOST:
        more = f"{len(found) - PROBLEMS_MOST} fields that cannot be read"
        problems.append(FieldProblem(field="more", given=more, allowed="none; they are told once these are mended"))
    return tuple(problems)


def _problem(item: Any, document: Any) -> FieldProblem:
    message = str(item["ctx"].get("error", "")) if item["type"] == "value_error" else ""
    if message.count("\n") == 2:  # what does not go together names its own field
        where, given, allowed = message.split("\n")
        return FieldProblem(
            field=".".join(filter(None, (_dotted(item["loc"], document), where))), given=repr(given), allowed=allowed
        )
    given = repr(item.get("input")) if item["type"] != "too_long" else f"more than {item['ctx']['max_length']}"
    if item["type"] == "missing":
        given = "nothing"
    return FieldProblem(
        field=_dotted(item["loc"], document) or "plan",
        given=given if len(given) <= 120 else given[:117] + "...",
        allowed=message or _allowed(item),
    )


def _dotted(loc: tuple[int | str, ...], document: Any) -> str:
    """Turn a validator's location into the path in the document: the tags it adds for unions are left out."""
    parts: list[str] = []
    here: Any = document
    was_tag = False
    for at, step in enumerate(loc):
        is_last = at == len(loc) - 1
        # A union's tag is the kind of the object just entered; a field may have the same name, but only after it.
        was_tag = not was_tag and not is_last and isinstance(here, Mapping) and here.get("kind") == step
        if was_tag or step == "[key]":
            continue
        inner = _inside(here, step)
        if inner is not None:
            here = inner[0]
        elif not is_last or not isinstance(here, Mapping):
            continue
        parts.append(str(step))
    return ".".join(parts)


def _inside(here: Any, step: int | str) -> tuple[Any] | None:
    """Return what stands at a step of the path, wrapped, or None where the document has nothing there."""
    if isinstance(here, Mapping):
        return (here[step],) if step in here else None
    return (here[step],) if isinstance(step, int) and isinstance(here, list | tuple) and step < len(here) else None


def _allowed(item: Any) -> str:
    context = item.get("ctx", {})
    match item["type"]:
        case "extra_forbidden":
            return "no field of this name here"
        case "missing":
            return "a value; this field must be given"
        case "literal_error":
            return str(context["expected"])
        case "union_tag_invalid":
            return f"kind is one of {context['expected_tags']}"
        case "union_tag_not_found":
            return "an object with a kind"
        case "greater_than":
            return f"over {context['gt']:,.12g}"
        case "greater_than_equal":
            return f"{context['ge']:,.12g} or more"
        case "less_than_equal":
            return f"{context['le']:,.12g} at most"
        case "string_pattern_mismatch":
            return PATTERNS.get(context["pattern"], f"text of the form {context['pattern']}")
        case "string_too_long":
            return f"at most {context['max_length']} characters"
        case "too_long":
            return f"at most {context['max_length']} of them, which can still be worked out while you wait"
        case "string_too_short":
            return f"at least {plural_characters(context['min_length'])}"
        case _:
            return str(item["msg"])


def plural_characters(count: int) -> str:
    """Write a count of characters."""
    return "1 character" if count == 1 else f"{count} characters"


PATTERNS: Final = {
    r"^[a-z][a-z0-9_]*$": "a short id: a letter, then letters, digits or _, all lower case",
    r"^[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*$": "two short ids with a dot between, such as serial.b_to_a",
    r"^[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*(\.far)?$": "the id of a line, and .far for its other end, such as serial.b_to_a",
    r"^(top|start|pass|heard\.[a-z][a-z0-9_]{0,39})$": "a place in the program: top, start, pass, or heard. and the id of a word",
    r"^[a-z0-9][a-z0-9-]*$": "a part id: lower-case letters, digits and -",
    r"^own-[a-z0-9][a-z0-9-]*$": "the id of a part of your own: own- and then lower-case letters, digits and -",
    r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$": "a moment in UTC, such as 2026-01-31T18:30:00Z",
    r"^[a-z0-9-]+$": "the name of a reference: lower-case letters, digits and -",
    r"^[a-z0-9_]+$": "the name of a figure: lower-case letters, digits and _",
    r"^\{[a-z][a-z0-9_]{0,39}\}$": "a value that the word carries, in braces, such as {level}",
    r"^[a-z][a-z0-9_]*(\.[a-z][a-z0-9_]*)?$": "the id of what feeds it, or of a board's own 3.3 V or 5 V pin, such as board.supply_3v3",
    r"^[ -~]+$": "letters, digits and signs of the plain English keyboard; a module takes no others",
    r"^[ -:<-~]+$": "letters, digits and signs of the plain English keyboard, no semicolon: that parts lines",
    r"^[a-z][a-z0-9_]*(\.[1-9][0-9]?)?$": "an input, or one of several alike by its number, such as touch.3",
    r"^[a-g]{7}$": "the letters a to g, each once: a is the upper bar, then clockwise round, g in the middle",
    r"^[!-~]$": "one sign of the plain English keyboard, no space",
    r"^[ -~]*$": "letters, digits and signs of the plain English keyboard; a display has no others",
    r"^([01]\d|2[0-3]):[0-5]\d$": "a time of day from 00:00 to 23:59, such as 19:30",
    r"^[A-Za-z0-9][A-Za-z0-9_+.-]{0,11}$": "a name as it is printed: at most 12 letters, digits and _ + . -",
    r"^[a-z0-9][a-z0-9_.:~+-]*$": "the id of a wire or a step, as the list at the bench has it",
    r"^\d{1,16}$": "1 to 16 digits",
    r"^(signals|lamps)(/[a-z0-9_.-]+){2,8}$": "a place of a line or a lamp, such as lamps/moon/channels/main/resistor_ohm",
    r"^([a-z][a-z0-9_]*|ground)$": "the id of a rail, or ground",
    r"^[A-Z0-9]+(-[A-Z0-9]+)*@[a-z0-9_.]+$": "a verdict and where it stands, such as LED-UNDER@moon.main",
}

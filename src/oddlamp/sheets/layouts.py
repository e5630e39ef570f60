"""How pixels and modules stand: the picture of their places, the choices, and the places as a file."""

import csv
import io
from html import escape
from typing import Any, Final

from oddlamp.core.checks.signs import COLUMN_S
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.glyphs import cannot_write
from oddlamp.core.layouts.places import INNER_RATIO, STAR_POINTS, cells_of, in_row_of, places_of, shape_of
from oddlamp.core.layouts.signs import MODULE, digits_of, long, matrix_face, modules_of, room_of
from oddlamp.core.layouts.strips import places_m
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.layouts import BARS, Digits, Folded, Free, Grid, Layout, MatrixPanel, Ring, Runs, Star
from oddlamp.core.plan.lights import PIXEL_KINDS, MatrixLamp, PixelLamp
from oddlamp.sheets.charts import Frame, PlacesPicture, Tried
from oddlamp.sheets.deeds import PATTERNS
from oddlamp.sheets.dots import DRAWN_MOST
from oddlamp.sheets.models import Choice, Entry, Option, Panel

FREED_MOST: Final = 600  # places of one's own are kept one by one
HELLO: Final = "HELLO 19:30"
SHAPES: Final = (
    ("line", "One line", "one after the other"),
    ("runs", "Runs, one below the other", "each a row of its own"),
    ("grid", "A grid", "rows of the same length"),
    ("digits", "Digits", "3 x 5 pixels, or seven bars"),
    ("ring", "A ring", "the first one on top"),
    ("star", "A star", "its outline"),
    ("free", "Places of their own", "typed or pasted"),
)
FIELDS: Final = ("begins", "goes", "turns", "in_row", "made_of", "in_bar", "bars", "way", "points", "inner_ratio", "places")


def layout_of(design: Design, lamp_id: str) -> Layout:
    """Return how a chain stands: one pixel where nothing is said."""
    return getattr(design.plan.lamps[lamp_id], "layout", None) or Layout()


def places_picture(design: Design, lamp: LampDesign) -> PlacesPicture | None:
    """Draw where the pixels of a chain stand, or the dots of modules; None for what has neither."""
    plan = design.plan.lamps[lamp.id]
    if isinstance(plan, MatrixLamp):
        return _matrix_picture(design, lamp, plan)
    if not isinstance(plan, PixelLamp):
        return None
    layout = layout_of(design, lamp.id)
    places = places_of(layout)
    return PlacesPicture(
        text=f"{lamp.label}: {how_they_stand(layout)}. The wire runs through them in the order of their numbers.",
        note=_more(len(places)),
        stage=lamp.stage,
        lamp=lamp.id,
        places=places[:DRAWN_MOST],
        in_rows=cells_of(layout) is not None,
        frames=(),
        pasted=at_path(("lamps", lamp.id, "layout"), {"runs": None, "shape": {**dict.fromkeys(FIELDS), "kind": "free"}}),
        tries=(
            *(Tried(label=label.capitalize(), verb="pattern", values={"pattern": key}) for key, label in PATTERNS),
            *_signs(design, lamp),
        ),
    )


def _signs(design: Design, lamp: LampDesign) -> tuple[Tried, ...]:
    """Offer texts, a score and the time to try on what shows signs."""
    face = face_of(design.plan.lamps[lamp.id])
    if face is None:
        return ()
    still = HELLO if long(face, HELLO) <= room_of(face) else HELLO[-5:][: max(digits_of(face), 1)]
    return (
        Tried(label="A still text", verb="text", values={"text": still, "scroll_s": 0}),
        Tried(label="A moving text", verb="text", values={"text": HELLO, "scroll_s": 0.3 if face.digits else COLUMN_S}),
        Tried(label="A score", verb="score", values={"count": 7}),
        Tried(label="The time, not set", verb="show", values={}),
    )


def _more(count: int) -> str:
    return f"The first {DRAWN_MOST:,} of {count:,} are drawn." if count > DRAWN_MOST else ""


def _matrix_picture(design: Design, lamp: LampDesign, plan: MatrixLamp) -> PlacesPicture:
    count, face = plan.count or 1, matrix_face(plan.count or 1, plan.panel)
    where = modules_of(count, plan.panel)
    corners = dict[tuple[int, int], str]()
    for (row, column), dots in where.items():
        if row % MODULE == 0 and column % MODULE == 0:
            corners[row, column] = " and ".join(str(module + 1) for module, _, _ in dots)
    panel = plan.panel or MatrixPanel()
    sides = ", the same on both sides" if panel.is_back_to_back else ""
    places = tuple((float(column), float(row)) for row in range(face.rows) for column in range(face.columns))
    return PlacesPicture(
        text=f"{lamp.label}: {plural(count, 'module')}, {face.columns} x {face.rows} dots{sides}",
        note=_more(len(places)),
        stage=lamp.stage,
        lamp=lamp.id,
        places=places[:DRAWN_MOST],
        in_rows=True,
        frames=tuple(
            Frame(across=column, down=row, wide=MODULE, high=MODULE, label=label) for (row, column), label in corners.items()
        ),
        tries=_signs(design, lamp),
    )


def how_they_stand(layout: Layout) -> str:
    """Say how pixels stand, in a few words."""
    shape, count = shape_of(layout), layout.count
    pixels = plural(count, "pixel")
    match shape:
        case Runs():
            return f"{pixels} in {plural(max(len(layout.runs), 1), 'run')}"
        case Grid():
            each = in_row_of(layout)
            whole, rest = divmod(count, each)
            last = f" and one of {rest}" if rest else ""
            return f"{pixels}, {plural(whole, 'column' if shape.goes == 'down' else 'row')} of {each}{last}"
        case Digits():
            size = 7 * (shape.in_bar or 1) if shape.made_of == "bars" else 15
            whole, rest = divmod(count, size)
            left = f", and {rest} left over" if rest else ""
            return f"{pixels}, {plural(whole, 'digit')} of {'seven bars' if shape.made_of == 'bars' else '3 x 5'}{left}"
        case Ring():
            return f"{pixels} in a ring"
        case Star():
            return f"{pixels} round a star of {shape.points or STAR_POINTS} points"
        case Free():
            return f"{pixels}, each at its own place"
        case _:
            return f"{pixels} in one line"


def _shape_patch(lamp_id: str, layout: Layout, kind: str) -> Document:
    """Let pixels stand in another way; what only the old way had is dropped."""
    shape: Document = {**dict.fromkeys(FIELDS), "kind": kind}
    made: Document = {"shape": shape}
    if kind == "free":
        shape["places"] = [list(it) for it in places_of(layout)]
    elif isinstance(layout.shape, Free):
        made["runs"] = [{"count": layout.count}]
    return at_path(("lamps", lamp_id, "layout"), made)


def layout_panel(design: Design, lamp: LampDesign) -> Panel | None:
    """Offer how the pixels of a chain, or modules, stand; None for what has neither."""
    plan = design.plan.lamps[lamp.id]
    if isinstance(plan, MatrixLamp):
        return _matrix_panel(lamp, plan)
    if plan.kind not in PIXEL_KINDS:
        return None
    layout = layout_of(design, lamp.id)
    shape = shape_of(layout)
    kinds = tuple(
        Option(label=label, detail=detail, patch=_shape_patch(lamp.id, layout, key), is_chosen=key == shape.kind)
        for key, label, detail in SHAPES
        if key != "free" or layout.count <= FREED_MOST or shape.kind == "free"
    )
    choices = [
        Choice(
            label="They stand in",
            origin="own" if layout.shape else "proposed",
            because=None if layout.shape else "as they come on a strip",
            options=kinds,
        )
    ]
    path = ("lamps", lamp.id, "layout", "shape")
    if isinstance(shape, Runs | Grid) or (isinstance(shape, Digits) and shape.made_of != "bars"):
        choices += _folds(path, shape)
    entries: list[Entry] = []
    if isinstance(shape, Grid):
        label = "In each column" if shape.goes == "down" else "In each row"
        each = in_row_of(layout)
        entries.append(_number(label, each, (*path, "in_row"), is_own=shape.in_row is not None, why="as square as it may be"))
    if isinstance(shape, Digits):
        choices.append(
            _one_of(
                "A digit is made of",
                (*path, "made_of"),
                shape.made_of,
                "3x5",
                (("3x5", "3 x 5 pixels", ""), ("bars", "Seven bars", "")),
            )
        )
        if shape.made_of == "bars":
            each = shape.in_bar or 1
            entries.append(
                _number("Pixels in a bar", each, (*path, "in_bar"), is_own=shape.in_bar is not None, why="one pixel a bar")
            )
            entries.append(_order_of_bars(path, shape))
    if isinstance(shape, Ring | Star):
        ways = (("clockwise", "Clockwise", ""), ("counter-clockwise", "Counter-clockwise", ""))
        choices.append(_one_of("It runs", (*path, "way"), shape.way, "clockwise", ways))
    if isinstance(shape, Star):
        points = shape.points or STAR_POINTS
        entries.append(
            _number(
                "Points", points, (*path, "points"), is_own=shape.points is not None, why="a star as children draw it", least=3
            )
        )
        entries.append(
            Entry(
                label="Notches, of the way out",
                text=f"{shape.inner_ratio or INNER_RATIO:g}",
                path=(*path, "inner_ratio"),
                origin="own" if shape.inner_ratio is not None else "proposed",
                because=None if shape.inner_ratio is not None else "about as a star of five points has it",
            )
        )
    return Panel(title="Places", note=_note(layout), choices=tuple(choices), entries=tuple(entries))


def _note(layout: Layout) -> str:
    face = face_of(PixelLamp(kind="pixels-one-wire", host="it", layout=layout))
    signs = (
        f"; it can show signs, {plural(digits_of(face), 'digit')} standing still" if face is not None and digits_of(face) else ""
    )
    return how_they_stand(layout) + signs


def _folds(path: tuple[str, ...], shape: Folded) -> list[Choice]:
    corners = (
        ("top-left", "Top left", ""),
        ("top-right", "Top right", ""),
        ("bottom-left", "Bottom left", ""),
        ("bottom-right", "Bottom right", ""),
    )
    return [
        _one_of("The first pixel", (*path, "begins"), shape.begins, "top-left", corners),
        _one_of("It goes first", (*path, "goes"), shape.goes, "across", (("across", "Across", ""), ("down", "Down", ""))),
        _one_of(
            "The next one",
            (*path, "turns"),
            shape.turns,
            "zig-zag",
            (("zig-zag", "Comes back", "the shortest wire"), ("straight", "Begins at the same side", "a wire back for each")),
        ),
    ]


def _one_of(label: str, path: tuple[str, ...], own: Any, usual: Any, ways: tuple[tuple[Any, str, str], ...]) -> Choice:
    return Choice(
        label=label,
        origin="proposed" if own is None else "own",
        because="usual" if own is None else None,
        options=tuple(
            Option(label=name, detail=detail, patch=at_path(path, key), is_chosen=key == (usual if own is None else own))
            for key, name, detail in ways
        ),
    )


def _number(label: str, count: int, path: tuple[str, ...], *, is_own: bool, why: str, least: int = 1) -> Entry:
    return Entry(
        label=label,
        text=str(count),
        path=path,
        origin="own" if is_own else "proposed",
        because=None if is_own else why,
        settles=None if is_own else count,
        lower=count - 1 if count > least else None,
        higher=count + 1,
    )


def _order_of_bars(path: tuple[str, ...], shape: Digits) -> Entry:
    return Entry(
        label="Bars in the order of the chain",
        text=shape.bars or BARS,
        path=(*path, "bars"),
        origin="own" if shape.bars else "proposed",
        because=None if shape.bars else "a on top, clockwise round, g in the middle",
        hint="Each of a to g once: a is the upper bar, then clockwise, g the middle one.",
        settles=None if shape.bars else BARS,
    )


def _matrix_panel(lamp: LampDesign, plan: MatrixLamp) -> Panel:
    panel, path = plan.panel or MatrixPanel(), ("lamps", lamp.id, "panel")
    rows = panel.rows or 1
    turned = tuple((it, f"{it}°" if it else "Upright", "") for it in (0, 90, 180, 270))
    choices = [
        _one_of("Each module is turned", (*path, "turned"), panel.turned, 0, turned),
        _one_of(
            "Both sides",
            (*path, "is_back_to_back"),
            panel.is_back_to_back,
            False,
            ((False, "One side", ""), (True, "Back to back", "the second half shows the same behind")),
        ),
    ]
    if rows > 1:
        turns = (("straight", "Begins at the same side", ""), ("zig-zag", "Comes back", "the shortest wire"))
        choices.append(_one_of("The next row", (*path, "turns"), panel.turns, "straight", turns))
    face = matrix_face(plan.count or 1, plan.panel)
    return Panel(
        title="Places",
        note=f"{face.columns} x {face.rows} dots; {plural(digits_of(face), 'digit')} standing still",
        choices=tuple(choices),
        entries=(_number("Rows of modules", rows, (*path, "rows"), is_own=panel.rows is not None, why="one row"),),
    )


def unwritten(design: Design, lamp_id: str, text: str) -> str:
    """Return the signs of a text that a lamp cannot draw."""
    face = face_of(design.plan.lamps[lamp_id])
    return cannot_write(text, is_bars=bool(face and face.digits), is_narrow=bool(face and face.rows < 7)) if face else ""


def layout_file(design: Design, lamp_id: str, form: str) -> str:
    """Write where each pixel stands: as a table (csv) with a heading, or as a drawing (svg) with the wire through them.

    Raises:
        OutOfRange: no chain of pixels of this plan.
    """
    if lamp_id not in design.plan.lamps or design.plan.lamps[lamp_id].kind not in PIXEL_KINDS:
        known = [it.id for it in design.lamps.values() if it.kind in PIXEL_KINDS]
        raise OutOfRange(field="lamp", given=lamp_id, allowed="one of " + (", ".join(known) or "none: there are no pixels"))
    places = places_of(layout_of(design, lamp_id))
    if form == "csv":
        out = io.StringIO()
        rows = csv.writer(out, lineterminator="\n")
        rows.writerow(("pixel", "across", "down", "across_mm", "down_mm"))
        real = places_m(layout_of(design, lamp_id))
        rows.writerows(
            (at, f"{x:g}", f"{y:g}", f"{1000 * across_m:.2f}", f"{1000 * down_m:.2f}")
            for at, ((x, y), (across_m, down_m)) in enumerate(zip(places, real, strict=True))
        )
        return out.getvalue()
    left, top = min(x for x, _ in places) - 1, min(y for _, y in places) - 1
    wide, high = max(x for x, _ in places) + 1 - left, max(y for _, y in places) + 1 - top
    wire = " ".join(f"{x:g},{y:g}" for x, y in places)
    dots = "".join(
        f'<circle cx="{x:g}" cy="{y:g}" r="0.3"/><text x="{x:g}" y="{y + 0.12:g}">{at}</text>\n'
        for at, (x, y) in enumerate(places)
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left:g} {top:g} {wide:g} {high:g}">\n'
        f"<title>{escape(design.lamps[lamp_id].label)}</title>\n"
        f'<polyline points="{wire}" fill="none" stroke="#a9562a" stroke-width="0.06"/>\n'
        f'<g fill="#fbfafd" stroke="#261c3a" stroke-width="0.04" font-size="0.3" text-anchor="middle">\n{dots}</g>\n</svg>\n'
    )

"""One plan that breaks each rule of supply and wire, and one just inside it; rows for `test_findings`."""

from typing import Any

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR

ON_70: Document = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}}


def fed_by(part: str, **overrides: Any) -> Document:
    return {"sources": {"usb": {"choice": {"part": part, "overrides": overrides}}}}


def chain(count: int, **more: Any) -> Document:
    """A chain of pixels, its data through a gate where it hears it."""
    px = {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": count}], **more.pop("layout", {})}, **more}
    return {"lamps": {"px": px}, "signals": {"px.data": {"series_ohm": 330}}}


def glow(length_m: float, **more: Any) -> Document:
    part = more.pop("part", "strip-5v-warm")
    return {"lamps": {"glow": {"kind": "strip", "host": "board", "choice": {"part": part}, "length_m": length_m, **more}}}


def made(part: str, source: str, **converter: Any) -> Document:
    """A second source with a converter behind it."""
    overrides = converter.pop("overrides", {})
    return {
        "sources": {"other": {"end": "table", "choice": {"part": source, "overrides": overrides}}},
        "rails": {"high": {"end": "table", "fed_by": "other"}, "low": {"end": "table", "fed_by": "conv"}},
        "converters": {"conv": {"from_rail": "high", "choice": {"part": part}, **converter}},
    }


def through_regulator(length_m: float) -> Document:
    """A board on 9 V whose own regulator feeds the module and a strip too."""
    return merge_patch(
        glow(length_m, rail="five_out"),
        {
            **fed_by("adapter-9v-1a"),
            "rails": {"five_out": {"end": "table", "fed_by": "board.supply_5v"}},
            "nodes": {"radio": {"rail": "five_out"}},
            "lamps": {"lamp": {"channels": {"main": {"wanted_current_a": 0.002, "resistor_ohm": None}}}},
        },
    )


def on_track(length_m: float, **more: Any) -> Document:
    high = {"end": "table", "fed_by": "other", **more}
    source = {
        "end": "table",
        "choice": {"part": "track-12v", "overrides": {"voltage_v": {"value": 12, "least": 11, "most": 12.5}}},
    }
    return {"sources": {"other": source}, "rails": {"high": high}, **glow(length_m, part="strip-12v-white", rail="high")}


NO_LIGHT: Document = {"lamps": {"lamp": None}, "rules": {"r1": None, "r2": None}}
BY_3V3: Document = {"rails": {"three": {"end": "table", "fed_by": "board.supply_3v3"}}, "nodes": {"radio": {"rail": "three"}}}
GUEST: Document = {
    "nodes": {"radio": {"choice": {"part": "family-e"}, "setup": None}, "phone": {"speaks": ["wifi"]}},
    "links": {"air": {"transport": None, "join": "station"}},
}
METRE_OF_AN_AMPERE = 1 / 0.9
THIN: Document = {"feed": {"length_m": 2, "gauge_awg": 24}}


def peak(value: float, **spread: float) -> Document:
    return {"nodes": {"radio": {"choice": {"overrides": {"peak_a": {"value": value, **spread}}}}}}


Row = tuple[str, str, list[Document], list[Document], Document]
ROWS: list[Row] = [
    ("SUP-RAIL-PEAK", "stop", [fed_by("usb-port-500ma"), chain(24)], [fed_by("usb-port-500ma"), chain(24, brightness_cap_ratio=0.2)], CLEAR),
    ("SUP-RAIL-PEAK", "look", [chain(15, brightness_cap_ratio=0.975)], [chain(15, brightness_cap_ratio=0.9)], CLEAR),
    ("SUP-RAIL-PEAK", "stop", [made("boost-trimmer", "adapter-12v-2a", set_point_v=24, is_set=True), glow(5, part="strip-24v-warm", rail="low")], [made("boost-trimmer", "adapter-12v-2a", set_point_v=24, is_set=True), glow(1, part="strip-24v-warm", rail="low")], CLEAR),
    ("SUP-RAIL-AVG", "look", [glow(0.85)], [glow(0.85, usage_ratio=0.5)], CLEAR),
    ("SUP-RAIL-AVG", "stop", [glow(1.2)], [glow(0.5)], CLEAR),
    ("SUP-33V-PIN", "stop", [BY_3V3, GUEST], [GUEST], CLEAR),
    ("SUP-33V-PIN", "look", [BY_3V3, peak(0.05, most=0.051)], [BY_3V3, peak(0.04, most=0.05)], CLEAR),
    ("SUP-DROPOUT", "stop", [made("regulator-5v-1a", "aa-4")], [made("regulator-5v-1a", "adapter-9v-1a")], CLEAR),
    ("SUP-DROPOUT", "look", [made("regulator-5v-1a", "block-9v")], [made("regulator-5v-1a", "adapter-9v-1a")], CLEAR),
    ("SUP-CONVERTER-INPUT", "stop", [made("regulator-3v3-250ma", "adapter-9v-1a")], [made("regulator-3v3-250ma", "adapter-5v-1a")], CLEAR),
    ("SUP-CONVERTER-INPUT", "look", [made("regulator-3v3-250ma", "aa-4")], [made("regulator-3v3-250ma", "adapter-5v-1a")], CLEAR),
    ("SUP-HEAT", "stop", [through_regulator(0.4)], [through_regulator(0.02)], CLEAR),
    ("SUP-HEAT", "look", [through_regulator(0.15)], [through_regulator(0.02)], CLEAR),
    ("SUP-SAG", "look", [fed_by("aaa-3", resistance_ohm=5)], [fed_by("aaa-3")], CLEAR),
    ("SUP-SETPOINT", "look", [made("buck-trimmer", "adapter-9v-1a")], [made("buck-trimmer", "adapter-9v-1a", is_set=True)], CLEAR),
    ("SUP-SETPOINT", "stop", [made("buck-trimmer", "adapter-9v-1a", set_point_v=0.5)], [made("buck-trimmer", "adapter-9v-1a", set_point_v=0.8)], CLEAR),
    ("SUP-DECOUPLING", "look", [{"rails": {"five": {"decoupling_f": 1e-6}}}], [{"rails": {"five": {"decoupling_f": 1e-5}}}], CLEAR),
    ("SUP-BANK-SLEEP", "look", [fed_by("power-bank-5v")], [fed_by("power-bank-5v"), glow(0.2)], CLEAR),
    ("SUP-COIN", "stop", [fed_by("coin-cell-3v")], [fed_by("aaa-2")], CLEAR),
    ("SUP-COIN", "look", [fed_by("coin-cell-3v", current_max_a=0.5, pulse_a=0.5)], [fed_by("aaa-2")], CLEAR),
    ("SUP-RUNTIME", "look", [fed_by("aaa-3"), {"sources": {"usb": {"wanted_run_time_s": 1e5}}}], [fed_by("aaa-3"), {"sources": {"usb": {"wanted_run_time_s": 3600}}}], CLEAR),
    ("SUP-HOLDUP", "look", [on_track(0.75)], [on_track(0.75, decoupling_f=0.015)], CLEAR),
    ("SUP-NOT-A-CHARGER", "stop", [made("buck-trimmer", "adapter-12v-2a", charges=True, set_point_v=8.4)], [made("charger-2s", "adapter-12v-2a", charges=True)], CLEAR),
    ("LITHIUM-CAUTION", "look", [made("boost-5v", "lithium-1s")], [made("boost-5v", "aaa-3")], CLEAR),
    ("SUP-CLOCK", "stop", [fed_by("adapter-5v-1a", voltage_v={"value": 3.7, "least": 3.65, "most": 3.75})], [fed_by("adapter-5v-1a", voltage_v={"value": 3.9, "least": 3.85, "most": 4})], CLEAR),
    ("SUP-CLOCK", "look", [fed_by("adapter-5v-1a", voltage_v={"value": 5, "least": 3.7, "most": 5.2})], [fed_by("adapter-5v-1a", voltage_v={"value": 5, "least": 3.9, "most": 5.2})], CLEAR),
    ("WIRE-DROP", "look", [fed_by("adapter-5v-2a"), glow(METRE_OF_AN_AMPERE, **THIN)], [fed_by("adapter-5v-2a"), glow(METRE_OF_AN_AMPERE / 10, feed={"length_m": 0.5})], CLEAR),
    ("WIRE-CURRENT", "look", [fed_by("adapter-5v-2a"), glow(METRE_OF_AN_AMPERE, **THIN)], [fed_by("adapter-5v-2a"), glow(METRE_OF_AN_AMPERE / 10, feed={"length_m": 0.5})], CLEAR),
    ("WIRE-CURRENT", "stop", [fed_by("adapter-5v-2a"), glow(METRE_OF_AN_AMPERE, feed={"length_m": 0.1, "gauge_awg": 30})], [fed_by("adapter-5v-2a"), glow(METRE_OF_AN_AMPERE, feed={"length_m": 0.1, "gauge_awg": 22})], CLEAR),
    ("WIRE-FUSE", "look", [fed_by("adapter-5v-10a"), glow(0.2, feed={"length_m": 0.3})], [fed_by("adapter-5v-10a"), {"sources": {"usb": {"fuse_a": 2}}}, glow(0.2, feed={"length_m": 0.3})], CLEAR),
    ("STRIP-DROP", "look", [ON_70, fed_by("adapter-5v-10a"), chain(144)], [ON_70, fed_by("adapter-5v-10a"), chain(144, brightness_cap_ratio=0.2)], CLEAR),
    ("STRIP-DROP", "look", [fed_by("adapter-5v-4a"), glow(3)], [fed_by("adapter-5v-4a"), glow(0.5)], CLEAR),
    ("PIX-CAP", "look", [chain(5, capacitor_f=0)], [chain(5, capacitor_f=4.7e-4)], CLEAR),
]  # fmt: skip

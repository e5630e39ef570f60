"""The solver of supplies against a general circuit solver: drawn trees of sources, wires, diodes, converters and loads."""

import random
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.core.electrical.nodal import (
    OUTPUT_OHM,
    SOFT_V,
    Diode,
    Linear,
    Load,
    NoSolution,
    Part,
    PowerLoad,
    Resistor,
    Solved,
    Source,
    Switch,
    Switching,
    solved,
)
from tests.full import IS_PROOF
from tests.outside.spice import solve

SILICON = DiodeCurve(forward_voltage_v=0.7, at_current_a=0.5, ideality=1.5, series_ohm=0.1)  # a rectifier; from memory
RED = DiodeCurve(forward_voltage_v=2.0, at_current_a=0.02, ideality=2.0, series_ohm=3.0)


def drawn(rng: random.Random) -> list[Part]:
    """A source, rails behind wires and converters in any depth, and what hangs on them."""
    begins_v = rng.choice([3.7, 5.0, 7.4, 9.0, 12.0])
    parts: list[Part] = [Source("s", "0", begins_v, rng.choice([0.02, 0.05, 0.2]))]
    rails = [("s", begins_v)]
    for at in range(rng.randint(1, 4)):
        over, stands_v = rng.choice(rails)
        name, kind = f"r{at}", rng.choice(["wire", "wire", "diode", "linear", "switching"])
        if kind == "diode" and stands_v > 2:
            parts.append(Diode(over, name, SILICON))
            stands_v -= 0.7
        elif kind == "linear" and stands_v > 2.5:
            set_v = rng.choice([it for it in (1.8, 3.3, 5.0) if it < stands_v + 0.5])
            parts.append(Linear(over, name, "0", set_v, rng.choice([0.3, 1.1]), own_a=0.005))
            stands_v = min(set_v, stands_v)
        elif kind == "switching" and stands_v > 2.5:
            set_v = rng.choice([3.3, 5.0, 9.0])
            parts.append(Switching(over, name, "0", set_v, rng.choice([0.7, 0.92]), 2.0, own_a=0.003))
            stands_v = set_v
        else:
            parts.append(Resistor(over, name, rng.choice([0.02, 0.1, 0.5])))
        rails.append((name, stands_v))
    for name, stands_v in rails:
        for at in range(rng.randint(0, 2)):
            draws_a = rng.choice([0.001, 0.02, 0.08, 0.3])
            match rng.choice(["load", "power", "led", "switched"]):
                case "load":
                    parts.append(Load(name, "0", draws_a, rng.choice([1.8, 2.7, 3.0])))
                case "power":
                    parts.append(PowerLoad(name, "0", draws_a * stands_v, rng.choice([1.8, 2.7])))
                case "led":
                    parts += [Resistor(name, f"{name}l{at}", 150.0), Diode(f"{name}l{at}", "0", RED)]
                case _:
                    ends = f"{name}c{at}"
                    parts += [Resistor(name, ends, 47.0), Switch(ends, "0", rng.random() < 0.7, 2.0, rng.choice([0.0, 0.1]))]
    return parts


def held(at: int, into: str, out: str, volts: str, share: str) -> list[str]:
    """Volts that are held behind a small resistance, and what of its current is taken from the input."""
    return [
        f"BX{at} x{at} 0 V={volts}",
        f"VX{at} x{at} y{at} 0",
        f"RX{at} y{at} {out} {OUTPUT_OHM}",
        f"BI{at} {into} 0 I=i(VX{at})*{share}",
    ]


def deck_of(parts: list[Part]) -> str:
    """The same circuit for the other solver, each part by what it is said to do."""
    lines = list[str]()
    for at, it in enumerate(parts):
        match it:
            case Resistor(a, b, ohm):
                lines.append(f"R{at} {a} {b} {ohm!r}")
            case Source(plus, minus, volts, ohm):
                lines += [f"V{at} x{at} {minus} {volts!r}", f"R{at} x{at} {plus} {ohm!r}"]
            case Load(a, b, current_a, from_v):
                lines.append(f"B{at} {a} {b} I={current_a!r}*min(max(v({a})/{max(from_v, SOFT_V)},0),1)")
            case PowerLoad(a, b, power_w, from_v):
                lines.append(f"B{at} {a} {b} I={power_w!r}*min(1/max(v({a}),{from_v}),max(v({a}),0)/{from_v**2!r})")
            case Diode(anode, cathode, curve, count):
                lines.append(f"D{at} {anode} {cathode} d{at}")
                model = f"is={count and curve.saturation_a!r} n={curve.ideality * count!r} rs={curve.series_ohm * count!r}"
                lines.append(f".model d{at} d({model})")
            case Switch(a, b, is_on, ohm, drop_v):
                if is_on:
                    lines.append(f"B{at} {a} {b} I=max(v({a})-{drop_v!r},0)/{ohm!r}")
            case Linear(into, out, _, set_v, dropout_v, _, own_a):
                lines += held(at, into, out, f"min({set_v},max(v({into})-{dropout_v},0))", "1")
                lines.append(f"BO{at} {into} 0 I={own_a}*min(max(v({into})/{set_v},0),1)")
            case Switching(into, out, _, set_v, efficiency, least_v, _, own_a):
                lines += held(
                    at,
                    into,
                    out,
                    f"{set_v}*min(max((v({into})-{least_v})/{SOFT_V},0),1)",
                    f"v({out})/({efficiency}*max(v({into}),1))",
                )
                lines.append(f"BO{at} {into} 0 I={own_a}*min(max(v({into})/{least_v},0),1)")
    return "\n".join(lines)


@pytest.mark.parametrize("seed", range(250 if IS_PROOF else 25))
def test_volts_of_drawn_supplies_are_those_of_a_circuit_solver(seed: int, tmp_path: Path) -> None:
    """0.1 % where nothing bends; 1 % behind a diode."""
    parts = drawn(random.Random(seed))
    found = solved(parts)
    names = [it for it in found.volts if it != "0"]
    # It begins near, for where a part is at its limit it has no slope to follow; what it comes to is its own.
    near = "\n".join(f".nodeset v({it})={0.97 * found.volts[it]!r}" for it in names)
    told = solve(tmp_path, f"{deck_of(parts)}\n{near}", analysis="op", ask=[f"print v({it})" for it in names])
    rel = 0.01 if any(isinstance(it, Diode) for it in parts) else 0.001
    for it in names:
        assert found.volts[it] == pytest.approx(told[f"v({it})"], rel=rel, abs=2e-3), it
    kept = {name: sum(found.into_a(it, name) for it in parts) for name in names}
    assert kept == pytest.approx(dict.fromkeys(names, 0.0), abs=1e-6)


def test_a_regulator_drops_out_as_its_sheet_says() -> None:
    """3.3 V with a drop-out of 1.1 V from 5 V: it holds; from 4 V it gives 2.9; over its limit its volts fall."""

    def gives(volts: float, ohm: float) -> float:
        return solved([Source("in", "0", volts), Linear("in", "out", "0", 3.3, 1.1, 0.25), Resistor("out", "0", ohm)]).between(
            "out"
        )

    assert gives(5.0, 100) == pytest.approx(3.3, abs=1e-3)
    assert gives(4.0, 100) == pytest.approx(2.9, abs=1e-3)
    assert gives(5.0, 5) == pytest.approx(0.25 * 5, rel=1e-3)


def test_a_converter_takes_the_power_it_gives() -> None:
    """5 V at 1 A with 90 % from 12 V take 0.463 A: the law of energy."""
    parts: list[Part] = [Source("in", "0", 12.0), Switching("in", "out", "0", 5.0, 0.9, 6.0, 3.0), Load("out", "0", 1.0, 2.0)]
    found = solved(parts)
    out_v = found.between("out")
    assert found.into_a(parts[1], "in") == pytest.approx(out_v / (0.9 * 12.0), rel=1e-4)
    assert solved([Source("in", "0", 5.5), *parts[1:]]).between("out") == pytest.approx(0.0, abs=1e-3), (
        "under its least it stands still"
    )


def volts_of(found: Solved) -> list[float]:
    return [found.volts[it] for it in sorted(found.volts)]


@settings(max_examples=200 if IS_PROOF else 30, deadline=None)
@given(st.integers(0, 2**32), st.floats(0.001, 0.2))
def test_more_load_raises_no_rail(seed: int, more_a: float) -> None:
    """What hangs on the source itself takes volts from all of them, or from none."""
    rng = random.Random(seed)
    parts = [it for it in drawn(rng) if not isinstance(it, PowerLoad | Switching)]
    before, after = solved(parts), solved([*parts, Load("s", "0", more_a, 1.0)])
    assert all(now <= then + 1e-6 for now, then in zip(volts_of(after), volts_of(before), strict=True))


def test_what_nothing_feeds_stands_at_no_volts() -> None:
    """No node floats, nothing is divided by nothing, and no wire is too thick."""
    found = solved([Source("a", "0", 5.0, 0.0), Resistor("a", "b", 0.0), Load("c", "0", 1.0, 3.0), Resistor("c", "d", 0.0)])
    assert found.volts == pytest.approx({"0": 0.0, "a": 5.0, "b": 5.0, "c": 0.0, "d": 0.0}, abs=1e-4)
    assert solved([]).volts == {"0": 0.0}


def test_a_converter_that_takes_more_than_its_source_gives_has_no_solution() -> None:
    """5 V behind 1.5 ohm give 25 / 6 = 4.17 W at most, at half of their volts: 9 V at 0.3 A with 90 % take 3 W, at 0.45 A 4.5 W."""

    def supply(current_a: float) -> list[Part]:
        return [Source("in", "0", 5.0, 1.5), Switching("in", "out", "0", 9.0, 0.9, 2.0), Load("out", "0", current_a, 2.0)]

    found = solved(supply(0.3))
    assert found.between("out") == pytest.approx(9.0, abs=0.01)
    assert found.between("in") > 2.5
    with pytest.raises(NoSolution):
        solved(supply(0.45))

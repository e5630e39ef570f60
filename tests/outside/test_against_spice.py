"""The core's answers against ngspice on random circuits: within 0.1 % where all is linear, 1 % with diodes."""

import itertools
import math
import random
from dataclasses import replace
from pathlib import Path

import pytest

from oddlamp.core.electrical.diode import DiodeCurve, curve_current_a
from oddlamp.core.electrical.drivers import base_drive
from oddlamp.core.electrical.led import LedBranch, Spread, led_point
from oddlamp.core.electrical.level import Burden, Divider, divide, rise_time_s, shifter_edge_s, zener_level
from tests.outside.spice import solve

COUNT = 200
LINEAR, DIODE = 1e-3, 1e-2


def flat(value: float) -> Spread:
    return Spread(least=value, value=value, most=value)


def worst(pairs: list[tuple[float, float]]) -> float:
    """Return the largest relative difference; printed, so that the figure can be read with -s."""
    figure = max(abs(ours - theirs) / abs(theirs) for ours, theirs in pairs)
    print(f"worst of {len(pairs)}: {figure:.2e}")
    return figure


def led_line(chance: random.Random, at: int, top: str, bottom: str) -> tuple[str, DiodeCurve, int]:
    """Draw LEDs in series between two nodes; return their deck lines, curve and count."""
    is_red = chance.random() < 0.5
    drop_v = chance.uniform(1.8, 2.3) if is_red else chance.uniform(2.8, 3.5)
    curve = DiodeCurve(forward_voltage_v=drop_v, at_current_a=0.02, ideality=2 if is_red else 3, series_ohm=6 if is_red else 12)
    count = chance.randint(1, 3)
    nodes = [top, *(f"s{at}_{n}" for n in range(1, count)), bottom]
    lines = [f"D{at}_{n} {nodes[n]} {nodes[n + 1]} M{at}" for n in range(count)]
    lines.append(f".model M{at} D(IS={curve.saturation_a:.12e} N={curve.ideality} RS={curve.series_ohm})")
    return "\n".join(lines), curve, count


def test_led_by_its_curve_with_the_pins_resistance(tmp_path: Path) -> None:
    """From nearly nothing left to volts to spare, 1 to 3 LEDs, pin resistance 0 to 60 ohm."""
    chance, body, ours, ask = random.Random(1), [], [], []
    for at in range(COUNT):
        lines, curve, count = led_line(chance, at, f"b{at}", "0")
        drive_v = count * curve.forward_voltage_v * chance.uniform(0.85, 2.5)
        ohm, pin = chance.choice([33, 68, 150, 330, 1000, 4700]), chance.uniform(0, 60)
        body += [f"V{at} a{at} 0 {drive_v:.9f}", f"R{at} a{at} b{at} {ohm + pin:.9f}", lines]
        ours.append(curve_current_a(curve, drive_v=drive_v, resistance_ohm=ohm + pin, in_series=count))
        ask.append(f"print i(V{at})")
    figures = solve(tmp_path, "\n".join(body), analysis="op", ask=ask)
    theirs = [-figures[f"i(v{at})"] for at in range(COUNT)]
    assert worst(list(zip(ours, theirs, strict=True))) < DIODE


def test_transistor_drive_with_its_leds(tmp_path: Path) -> None:
    """LEDs over a saturated NPN (a fixed drop) or a MOSFET (a resistance), and the base behind its resistor."""
    chance, body, ours, ask = random.Random(2), [], [], []
    for at in range(COUNT):
        lines, curve, count = led_line(chance, at, f"b{at}", f"c{at}")
        drive_v = count * curve.forward_voltage_v + chance.uniform(0.8, 6)
        ohm, is_npn = chance.choice([47, 100, 220, 470]), chance.random() < 0.5
        kept_v, on_ohm = (chance.uniform(0.1, 0.4), 0.0) if is_npn else (0.0, chance.uniform(0.02, 2))
        body += [f"V{at} a{at} 0 {drive_v:.9f}", f"R{at} a{at} b{at} {ohm}", lines]
        body.append(f"VS{at} c{at} 0 {kept_v:.9f}" if is_npn else f"RS{at} c{at} 0 {on_ohm:.9f}")
        branch = LedBranch(
            drive_voltage_v=flat(drive_v),
            forward_voltage_v=flat(count * curve.forward_voltage_v),
            driver_drop_v=flat(kept_v),
            driver_resistance_ohm=flat(on_ohm),
            tolerance_ratio=0,
            curve=curve,
            in_series=count,
        )
        point = led_point(branch, resistance_ohm=ohm).curve_a
        assert point is not None
        ours.append(point.value)
        ask.append(f"print i(V{at})")
    figures = solve(tmp_path, "\n".join(body), analysis="op", ask=ask)
    theirs = [-figures[f"i(v{at})"] for at in range(COUNT)]
    assert worst(list(zip(ours, theirs, strict=True))) < DIODE


def side_by_side(chance: random.Random, at: int, *, is_alike: bool) -> tuple[str, LedBranch, float]:
    """Draw 1 to 6 strings behind one driver, a resistor each or one for all; unlike ones stay inside the branch's spreads.

    Return their deck lines, the branch and its resistor; the source of 0 V in the first string is its ammeter.
    """
    n, is_shared = chance.randint(1, 6), chance.random() < 0.5
    is_red = chance.random() < 0.5
    middle_v, half_v = (2.0, 0.2) if is_red else (3.2, 0.4)
    curve = DiodeCurve(forward_voltage_v=middle_v, at_current_a=0.02, ideality=2 if is_red else 3, series_ohm=6 if is_red else 12)
    drive_v, ohm, driver = middle_v + chance.uniform(0.6, 4), chance.choice([47, 150, 330, 1000]), chance.uniform(0.05, 45)

    def inside(half: float) -> float:
        return 0.0 if is_alike else chance.uniform(-half, half)

    lines = [f"V{at} a{at} 0 {drive_v:.9f}", f"RD{at} a{at} p{at} {driver:.9f}"]
    if is_shared:
        lines.append(f"R{at} p{at} q{at} {ohm * (1 + inside(0.05)):.9f}")
    for k in range(n):
        top, drawn = f"q{at}", replace(curve, forward_voltage_v=middle_v + inside(half_v))
        if not is_shared:
            top = f"r{at}_{k}"
            lines.append(f"R{at}_{k} p{at} {top} {ohm * (1 + inside(0.05)):.9f}")
        lines += [f"VA{at}_{k} {top} t{at}_{k} 0", f"D{at}_{k} t{at}_{k} 0 M{at}_{k}"]
        lines.append(f".model M{at}_{k} D(IS={drawn.saturation_a:.12e} N={drawn.ideality} RS={drawn.series_ohm})")
    branch = LedBranch(
        drive_voltage_v=flat(drive_v),
        forward_voltage_v=Spread(least=middle_v - half_v, value=middle_v, most=middle_v + half_v),
        driver_resistance_ohm=flat(driver),
        tolerance_ratio=0.05,
        curve=curve,
        in_parallel=n,
        is_shared=is_shared,
    )
    return "\n".join(lines), branch, ohm


@pytest.mark.parametrize("is_alike", [True, False])
def test_strings_side_by_side_behind_one_driver(tmp_path: Path, is_alike: bool) -> None:
    """Alike, each takes what the curve says, the driver carrying all; unlike, each stays between the corners."""
    chance, body, curves = random.Random(7), [], []
    for at in range(COUNT):
        lines, branch, ohm = side_by_side(chance, at, is_alike=is_alike)
        body.append(lines)
        point = led_point(branch, resistance_ohm=ohm).curve_a
        assert point is not None
        curves.append(point)
    figures = solve(tmp_path, "\n".join(body), analysis="op", ask=[f"print i(VA{at}_0)" for at in range(COUNT)])
    theirs = [figures[f"i(va{at}_0)"] for at in range(COUNT)]
    if is_alike:
        assert worst([(ours.value, flows) for ours, flows in zip(curves, theirs, strict=True)]) < DIODE
    assert all(it.least * (1 - DIODE) <= flows <= it.most * (1 + DIODE) for it, flows in zip(curves, theirs, strict=True))


def test_a_sized_base_saturates_a_real_transistor(tmp_path: Path) -> None:
    """A Gummel-Poon transistor of gain 100 to 300 with the base resistor chosen here keeps under 0.3 V."""
    chance, body, ask, gains = random.Random(3), [], [], []
    for at in range(COUNT):
        load_a, pin_v, rail_v = chance.uniform(0.005, 0.15), chance.choice([3.3, 5.0]), chance.choice([5.0, 9.0, 12.0])
        base = base_drive(pin_v=pin_v, base_emitter_v=0.8, collector_current_a=load_a)
        gains.append(base.forced_gain)
        body += [
            f"V{at} a{at} 0 {rail_v}",
            f"RL{at} a{at} c{at} {rail_v / load_a:.6f}",
            f"VP{at} p{at} 0 {pin_v}",
            f"RB{at} p{at} b{at} {base.resistance_ohm}",
            f"Q{at} c{at} b{at} 0 Q{at}M",
            f".model Q{at}M NPN(IS=1e-14 BF={chance.uniform(100, 300):.3f} BR=4 RC=0.3 RB=10)",
        ]
        ask.append(f"print v(c{at})")
    figures = solve(tmp_path, "\n".join(body), analysis="op", ask=ask)
    assert len(figures) >= COUNT
    assert max(figures[f"v(c{at})"] for at in range(COUNT)) < 0.3
    assert max(gains) <= 10 * (1 + 1e-9), "a tenth of the collector current at least, common practice"


def test_loaded_divider(tmp_path: Path) -> None:
    chance, body, ours, ask = random.Random(4), [], [], []
    for at in range(COUNT):
        drive_v, upper, lower, load = (chance.uniform(*span) for span in ((2.5, 12), (100, 2e5), (100, 2e5), (1e3, 1e6)))
        body += [f"V{at} a{at} 0 {drive_v:.9f}", f"R{at} a{at} b{at} {upper:.9f}"]
        leak_a = chance.uniform(0, 1e-5)
        body += [f"RL{at} b{at} 0 {lower:.9f}", f"RX{at} b{at} 0 {load:.9f}", f"I{at} 0 b{at} {leak_a:.12f}"]
        burden = Burden(load_ohm=load, leakage_a=leak_a)
        divider = Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=0, burden=burden)
        ours.append(divide(flat(drive_v), divider).voltage_v.most)
        ask.append(f"print v(b{at})")
    figures = solve(tmp_path, "\n".join(body), analysis="op", ask=ask)
    assert worst([(mine, figures[f"v(b{at})"]) for at, mine in enumerate(ours)]) < LINEAR


def test_zener_clip_by_its_knee(tmp_path: Path) -> None:
    chance, body, ours, ask = random.Random(5), [], [], []
    for at in range(COUNT):
        volts = sorted(chance.uniform(1.5, 4.5) for _ in range(4))
        knee = tuple(zip((1e-4, 1e-3, 5e-3, 2e-2), (v + 0.05 * n for n, v in enumerate(volts)), strict=True))
        drive_v, ohm = chance.uniform(4.8, 12), chance.choice([150, 330, 470, 1000, 4700])
        pieces = [
            f"{i1:.6e}*exp((v(b{at})-{v1:.9f})*{math.log(i2 / i1) / (v2 - v1):.9f})"
            for (i1, v1), (i2, v2) in itertools.pairwise(knee)
        ]
        current = f"v(b{at}) < {knee[1][1]:.9f} ? {pieces[0]} : (v(b{at}) < {knee[2][1]:.9f} ? {pieces[1]} : {pieces[2]})"
        body += [f"V{at} a{at} 0 {drive_v:.9f}", f"R{at} a{at} b{at} {ohm}", f"B{at} b{at} 0 I = {current}"]
        ours.append(zener_level(flat(drive_v), series_ohm=ohm, tolerance_ratio=0, knee=knee).voltage_v.value)
        ask.append(f"print v(b{at})")
    figures = solve(tmp_path, "\n".join(body), analysis="op", ask=ask)
    assert worst([(mine, figures[f"v(b{at})"]) for at, mine in enumerate(ours)]) < DIODE


def test_rc_edges(tmp_path: Path) -> None:
    chance, body, ours, ask = random.Random(6), [], [], []
    for at in range(COUNT):
        ohm, farad, volts = chance.uniform(4e3, 2e4), chance.uniform(3e-11, 1e-10), chance.uniform(1.8, 5)
        body += [f"V{at} a{at} 0 PULSE(0 {volts:.6f} 10n 1p 1p 1)", f"R{at} a{at} b{at} {ohm:.6f}", f"C{at} b{at} 0 {farad:.6e}"]
        ours.append(rise_time_s(resistance_ohm=ohm, capacitance_f=farad))
        ask.append(f"meas tran e{at} trig v(b{at}) val={0.1 * volts:.9f} rise=1 targ v(b{at}) val={0.9 * volts:.9f} rise=1")
    figures = solve(tmp_path, "\n".join(body), analysis="tran 2n 12u 0 2n", ask=ask)
    assert worst([(mine, figures[f"e{at}"]) for at, mine in enumerate(ours)]) < LINEAR


def test_shifter_edges(tmp_path: Path) -> None:
    """One MOSFET, gate at the lower rail, passing more than a body diode would; half of the senders push, half only let go."""
    chance, body, ours, ask = random.Random(7), [], [], []
    for at in range(COUNT):
        pull, farad = chance.uniform(4e3, 1e4), chance.uniform(3e-11, 1e-10)
        gate_v, threshold_v, pushes = chance.choice([1.8, 3.3]), chance.uniform(0.3, 0.58), chance.random() < 0.5
        body += [f"VG{at} g{at} 0 {gate_v}", f"VD{at} r{at} 0 5", f"RP{at} r{at} d{at} {pull:.6f}", f"C{at} d{at} 0 {farad:.6e}"]
        body.append(f"M{at} d{at} g{at} s{at} s{at} N{at} W=1 L=1")
        body.append(f".model N{at} NMOS(VTO={threshold_v:.6f} KP=50 LAMBDA=0 IS=1e-30)")
        if pushes:
            body += [f"VS{at} t{at} 0 PULSE(0 {gate_v} 10n 1p 1p 1)", f"RO{at} t{at} s{at} 40"]
        else:
            body += [f"RS{at} g{at} s{at} 4700", f"S{at} s{at} 0 k{at} 0 SW", f"VK{at} k{at} 0 PULSE(1 0 10n 1p 1p 1)"]
        ours.append(
            shifter_edge_s(
                pull_ohm=pull,
                capacitance_f=farad,
                rail_v=5,
                gate_v=gate_v,
                threshold_v=threshold_v,
                sender_ohm=40 if pushes else 4700,
                goes_up=True,
            )
        )
        ask.append(f"meas tran e{at} trig v(d{at}) val=0.5 rise=1 targ v(d{at}) val=4.5 rise=1")
    body.append(".model SW SW(VT=0.5 VH=0.01 RON=1 ROFF=1e12)")
    figures = solve(tmp_path, "\n".join(body), analysis="tran 2n 8u 0 2n", ask=ask)
    pairs = [(mine, figures[f"e{at}"]) for at, mine in enumerate(ours)]
    assert worst(pairs) < DIODE


@pytest.mark.parametrize("goes_up", [True, False])
def test_shifter_edges_with_a_body_diode(tmp_path: Path, goes_up: bool) -> None:
    """One MOSFET of threshold 1.6 V and its body diode, gate at 3.3 V, between 3.3 V and 5 V, both ways.

    The diode points from the lower supply's side to the higher one's. It is a silicon junction of 1e-14 A, soft where ours is
    sharp, and the MOSFET is one of 0.5 A/V^2: they take a while over their last tenths of a volt, so 15 per cent are allowed.
    47 kohm with 30 pF from 5 V down to 3.3 V: 2.1 to 2.3 us.
    """
    chance, body, ours, ask = random.Random(8), [], [], []
    circuits = [(47e3, 3e-11), *((chance.uniform(4e3, 5e4), chance.uniform(3e-11, 1e-10)) for _ in range(20))]
    low_v, high_v = 3.3, 5.0
    for at, (pull, farad) in enumerate(circuits):
        rail_v, sends_v = (high_v, low_v) if goes_up else (low_v, high_v)
        source, drain = ("t", "d") if goes_up else ("d", "t")  # the source is on the lower supply's side
        body += [
            f"VG{at} g{at} 0 {low_v}",
            f"VR{at} r{at} 0 {rail_v}",
            f"RP{at} r{at} d{at} {pull:.6f}",
            f"C{at} d{at} 0 {farad:.6e}",
        ]
        body += [f"VS{at} p{at} 0 PULSE(0 {sends_v} 10n 1p 1p 1)", f"RO{at} p{at} t{at} 40"]
        body += [f"M{at} {drain}{at} g{at} {source}{at} {source}{at} N W=1 L=1", f"D{at} {source}{at} {drain}{at} BODY"]
        ours.append(
            shifter_edge_s(
                pull_ohm=pull, capacitance_f=farad, rail_v=rail_v, gate_v=low_v, threshold_v=1.6, sender_ohm=40, goes_up=goes_up
            )
        )
        ask.append(f"meas tran e{at} trig v(d{at}) val={0.1 * rail_v} rise=1 targ v(d{at}) val={0.9 * rail_v} rise=1")
    body += [".model N NMOS(VTO=1.6 KP=0.5 LAMBDA=0 IS=1e-30)", ".model BODY D(IS=1e-14 N=1)"]
    figures = solve(tmp_path, "\n".join(body), analysis="tran 2n 20u 0 2n", ask=ask)
    assert goes_up or 2.1e-6 <= ours[0] <= 2.3e-6
    assert worst([(mine, figures[f"e{at}"]) for at, mine in enumerate(ours)]) < 0.15


@pytest.mark.parametrize("count", [1, 2, 3])
def test_nothing_flows_below_nothing(count: int) -> None:
    curve = DiodeCurve(forward_voltage_v=2.0, at_current_a=0.02, ideality=2, series_ohm=6)
    assert curve_current_a(curve, drive_v=0, resistance_ohm=100, in_series=count) == 0
    assert curve_current_a(curve, drive_v=-1, resistance_ohm=100, in_series=count) == 0

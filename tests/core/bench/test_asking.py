"""What is measured next, held against a circuit solver: each step asked brings the fault that is there nearer, for few minutes."""

import random
from pathlib import Path

from oddlamp.core.bench.asking import MINUTES, next_step
from oddlamp.core.bench.devices import Fault
from tests.core.bench.spiced import wrongs
from tests.core.bench.test_faults import EACH, Group, groups, measured, off_steps
from tests.full import IS_PROOF, some

STEPS_MOST = 6


def likeliest(group: Group, step_id: str, known: dict[str, float]) -> Fault | None:
    step = next(it for it in group.steps if it.id == step_id)
    others = {name: it for name, it in known.items() if name != step_id}
    ranked = group.finder.ranked(step, known[step_id], others, group.steps)
    return max(ranked, key=lambda it: it[0])[2] if ranked else None


def test_what_is_measured_next_finds_what_is_there(tmp_path: Path) -> None:
    """Builds of parts anywhere in their tolerance, measured by a circuit solver; the first fault told, before and after."""
    rng, before, after, total, minutes = random.Random(7), 0, 0, 0, list[float]()
    for group in some(groups(), 3):
        around = list(wrongs(group.of.circuit, set(group.lines)))
        for wrong in rng.sample(around, min(EACH, len(around))):
            found = measured(group, wrong, rng, tmp_path)
            off = [it for it in off_steps(group, found) if group.finder.model.line_of(it)][-1:]
            if not off:  # the last: who meets it there has measured nothing with power off
                continue
            total += 1
            key, known, spent = wrong.key(group.of.circuit), {off[0].id: found[off[0].id]}, 0.0
            first = likeliest(group, off[0].id, known)
            before += first is not None and (first.kind, first.at) == key
            for _ in range(STEPS_MOST):
                others = {name: it for name, it in known.items() if name != off[0].id}
                asked = next_step(group.finder, off[0], known[off[0].id], others, group.steps)
                if asked is None or asked.step.id not in found:
                    break
                assert asked.step.id not in known
                assert len({reading for reading, _ in asked.told}) == len(asked.told) > 1
                assert asked.minutes == MINUTES.get(asked.step.phase, 1.0)
                known[asked.step.id] = found[asked.step.id]
                spent += asked.minutes
            last = likeliest(group, off[0].id, known)
            after += last is not None and (last.kind, last.at) == key
            minutes.append(spent)
    print(
        f"{total} faults: told first {before / total:.1%} at once, {after / total:.1%} after {sum(minutes) / total:.1f} minutes more"
    )
    assert total > (100 if IS_PROOF else 15)
    assert after > before
    assert sum(minutes) / total < 6

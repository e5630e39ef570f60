"""The part of a printed program that is the same in all: what goes on over time, as `docs/program.md` says."""

import re
from typing import Final

STATES: Final = """\
// ---- What is kept of a lamp, and what goes on with it ----

typedef uint32_t ms_t;  // counts up to 49.7 days and begins anew: only differences are ever looked at
struct State { bool on; uint8_t level; uint8_t colour[3]; };
enum Going : uint8_t { STILL, FADING, FLASHING };
struct Lamp {
  State kept, before, put_by;
  bool has_put_by, is_lit;
  Going going;
  ms_t mark, over, on_ms, off_ms;
  uint16_t left;       // how often it is still lit; 0 for ever
  uint8_t begun[3];    // its light when a fade began
  uint8_t held_by, turn;
};
struct Came { uint8_t event, source; ms_t due; uint32_t dropped; uint16_t values[VALUES]; };
struct Wait { bool runs; uint8_t place, turn; ms_t due; Came came; };
struct Cue { bool runs; uint8_t turn; int16_t at; ms_t due; };

struct Input { bool level, is_on, is_settling; ms_t changed; };

static ms_t now_ms;
static Input inputs[INPUTS > 0 ? INPUTS : 1];
static uint8_t pin_shows[PIN_COUNT > 0 ? PIN_COUNT : 1];
static Lamp lamps[LAMPS];
static Wait waits[RULES];
static Cue cues[CUES];

static ms_t since(ms_t then) { return (ms_t)(now_ms - then); }
static bool is_due(ms_t due) { return since(due) < 0x80000000UL; }

// x of 255 parts taken of y, rounded half up
static uint8_t times(uint8_t x, uint8_t y) { return (uint8_t)((2UL * x * y + 255UL) / 510UL); }

static uint8_t bright(const State &state) { return state.on ? state.level : 0; }

static void goal_of(const Lamp &lamp, uint8_t lights, uint8_t *light) {
  const uint8_t now = bright(lamp.kept);
  for (uint8_t at = 0; at < lights; at++) light[at] = lights == 1 ? now : times(now, lamp.kept.colour[at]);
}

// The light of this moment: what is kept, on its way there, or dark between two flashes
static void light_of(Lamp &lamp, uint8_t lights, uint8_t *light) {
  goal_of(lamp, lights, light);
  if (lamp.going == FLASHING && !lamp.is_lit)
    for (uint8_t at = 0; at < lights; at++) light[at] = 0;
  if (lamp.going != FADING) return;
  ms_t gone = since(lamp.mark);
  if (gone >= lamp.over) { lamp.going = STILL; return; }
  gone -= gone % 10;
  for (uint8_t at = 0; at < lights; at++) {
    const uint8_t from = lamp.begun[at], to = light[at];
    light[at] = to >= from ? (uint8_t)(from + (uint32_t)(to - from) * gone / lamp.over)
                           : (uint8_t)(from - (uint32_t)(from - to) * gone / lamp.over);
  }
}

static void become(uint8_t which, const State &state, ms_t over) {
  Lamp &lamp = lamps[which];
  if (!LIGHTS[which].fades) over = 0;
  if (over) {
    uint8_t light[3];
    light_of(lamp, LIGHTS[which].lights, light);
    for (uint8_t at = 0; at < LIGHTS[which].lights; at++) lamp.begun[at] = light[at];
  }
  lamp.kept = state;
  lamp.going = over ? FADING : STILL;
  lamp.mark = now_ms;
  lamp.over = over;
  lamp.turn++;
}

// Somebody sets a lamp: what others had waiting for it is dropped. Cues have nobody.
static void set_lamp(uint8_t which, const State &state, ms_t over, const Came *came) {
  lamps[which].held_by = 0;
  if (came)
    for (uint8_t rule = 0; rule < RULES; rule++)
      if (waits[rule].runs && waits[rule].came.event != came->event) waits[rule].came.dropped |= (uint32_t)1 << which;
  become(which, state, over);
}

"""
STEPS: Final = """\
// ---- What a step does ----

static void say(uint8_t size, const uint8_t *content) { PORT.write(content, size); }
static bool is_dropped(uint8_t which, const Came &came) { return came.dropped >> which & 1; }

static State with_level(State state, uint8_t level) { state.on = level > 0; state.level = level; return state; }
static State lit(State state) { state.on = true; if (!state.level) state.level = 255; return state; }
static State dark(State state) { state.on = false; return state; }
static State before_of(const Lamp &lamp) { return lamp.going == FLASHING ? lamp.before : lamp.kept; }

static void on(uint8_t which, ms_t over, const Came &came) {
  if (!is_dropped(which, came)) set_lamp(which, lit(lamps[which].kept), over, &came);
}
static void off(uint8_t which, ms_t over, const Came &came) {
  if (!is_dropped(which, came)) set_lamp(which, dark(lamps[which].kept), over, &came);
}
static void toggle(uint8_t which, ms_t over, const Came &came) {
  State state = lamps[which].kept;
  state.on = !state.on;
  if (!is_dropped(which, came)) set_lamp(which, state, over, &came);
}
static void hold(uint8_t which, const Came &came) {
  if (is_dropped(which, came)) return;
  set_lamp(which, lit(lamps[which].kept), 0, &came);
  lamps[which].held_by = came.source;
}
static void level(uint8_t which, uint8_t to, ms_t over, const Came &came) {
  if (!is_dropped(which, came)) set_lamp(which, with_level(lamps[which].kept, to), over, &came);
}
// A share of -1 stays as it is
static State coloured(State state, int16_t red, int16_t green, int16_t blue) {
  const int16_t shares[3] = {red, green, blue};
  for (uint8_t at = 0; at < 3; at++) if (shares[at] >= 0) state.colour[at] = (uint8_t)shares[at];
  state.on = state.colour[0] || state.colour[1] || state.colour[2];
  return state;
}
static void colour(uint8_t which, int16_t red, int16_t green, int16_t blue, ms_t over, const Came &came) {
  if (!is_dropped(which, came)) set_lamp(which, coloured(lamps[which].kept, red, green, blue), over, &came);
}
static void add(uint8_t which, int16_t by, bool goes_round, ms_t over, const Came &came) {
  if (is_dropped(which, came)) return;
  const int16_t now = bright(lamps[which].kept), wanted = (int16_t)(now + by);
  int16_t inside = wanted < 0 ? 0 : wanted > 255 ? 255 : wanted;
  if (inside != wanted && goes_round && inside == now) inside = wanted > 255 ? 0 : 255;
  set_lamp(which, with_level(lamps[which].kept, (uint8_t)inside), over, &came);
}
static void rung(uint8_t which, bool goes_up, bool goes_round, ms_t over, const Came &came) {
  if (is_dropped(which, came)) return;
  const uint8_t *ladder = LIGHTS[which].ladder, rungs = LIGHTS[which].rungs, now = bright(lamps[which].kept);
  uint8_t to = 0;
  if (goes_up) {
    to = goes_round ? ladder[0] : ladder[rungs - 1];
    for (uint8_t at = 0; at < rungs; at++) if (ladder[at] > now) { to = ladder[at]; break; }
  } else if (now) {
    to = goes_round ? ladder[rungs - 1] : ladder[0];
    for (uint8_t at = rungs; at-- > 0;) if (ladder[at] < now) { to = ladder[at]; break; }
  }
  set_lamp(which, with_level(lamps[which].kept, to), over, &came);
}
static void flash(uint8_t which, const State &state, ms_t on_ms, ms_t off_ms, uint16_t times_lit, const Came &came) {
  const State before = before_of(lamps[which]);
  if (is_dropped(which, came)) return;
  set_lamp(which, state, 0, &came);
  Lamp &lamp = lamps[which];
  lamp.going = FLASHING;
  lamp.is_lit = true;
  lamp.before = before;
  lamp.mark = now_ms + on_ms;
  lamp.on_ms = on_ms;
  lamp.off_ms = off_ms;
  lamp.left = times_lit;
}
static void blink(uint8_t which, ms_t on_ms, ms_t off_ms, uint16_t times_lit, const Came &came) {
  flash(which, lit(lamps[which].kept), on_ms, off_ms, times_lit, came);
}
static void pulse(uint8_t which, int16_t to, ms_t for_ms, const Came &came) {
  flash(which, to < 0 ? lit(lamps[which].kept) : with_level(lamps[which].kept, (uint8_t)to), for_ms, 0, 1, came);
}
static void remember(uint8_t which) { lamps[which].put_by = lamps[which].kept; lamps[which].has_put_by = true; }
static void restore(uint8_t which, ms_t over, const Came &came) {
  const State state = lamps[which].has_put_by ? lamps[which].put_by : lamps[which].kept;
  if (!is_dropped(which, came)) set_lamp(which, state, over, &came);
}

// A value of a range a to b, brought to 0 to 255: clipped, then rounded half up
static uint8_t scaled(uint16_t value, uint16_t least, uint16_t most) {
  if (most <= least) return 255;
  const uint16_t inside = value < least ? least : value > most ? most : value;
  return (uint8_t)((2UL * (uint32_t)(inside - least) * 255UL + (uint32_t)(most - least)) / (2UL * (uint32_t)(most - least)));
}

// A step that waits: the rule goes on from this place once its time has come
static void wait(uint8_t rule, uint8_t place, ms_t after_ms, const Came &came) {
  Wait &it = waits[rule];
  it.runs = true;
  it.place = place;
  it.due = came.due + after_ms;
  it.turn++;
  it.came = came;
}

static void play(uint8_t which) {
  Cue &cue = cues[which];
  cue.turn++;
  cue.at = -1;
  cue.runs = CUE_TABLE[which].count > 0;
  if (cue.runs) cue.due = now_ms + (CUE_TABLE[which].loops ? 0 : CUE_TABLE[which].frames[0].after_ms);
}
static void stop_cue(uint8_t which) { cues[which].runs = false; cues[which].turn++; }
static void picture(uint8_t which, ms_t from) {
  Cue &cue = cues[which];
  const CueTable &table = CUE_TABLE[which];
  if (!table.count) return;
  cue.at = (int16_t)((cue.at + 1) % table.count);
  cue.turn++;
  if (cue.runs) {
    if (cue.at + 1 == table.count && !table.loops) cue.runs = false;
    else cue.due = from + table.frames[(cue.at + 1) % table.count].after_ms;
  }
  const Frame &frame = table.frames[cue.at];
  for (uint16_t at = frame.first; at < frame.first + frame.count; at++) {
    const Picture &it = PICTURES[at];
    State state = lamps[it.lamp].kept;
    if (it.is_coloured) state = coloured(state, it.red, it.green, it.blue);
    if (it.level >= 0) state = with_level(state, (uint8_t)it.level);
    set_lamp(it.lamp, state, it.over_ms, nullptr);
  }
}
static void stop_all(const Came &came) {
  for (uint8_t at = 0; at < RULES; at++) waits[at].runs = false;
  for (uint8_t at = 0; at < CUES; at++) stop_cue(at);
  for (uint8_t at = 0; at < LAMPS; at++) set_lamp(at, dark(lamps[at].kept), 0, &came);
}

"""
WORDS: Final = """\
// What a word must hold: bytes that are always the same, and numbers between their bounds
static bool same(const uint8_t *line, uint8_t size, uint8_t &at, const uint8_t *wanted, uint8_t count) {
  for (uint8_t place = 0; place < count; place++, at++)
    if (at >= size || line[at] != wanted[place]) return false;
  return true;
}
static bool within(uint32_t value, uint16_t least, uint16_t most, uint16_t &to) {
  if (value < least || value > most) return false;
  to = (uint16_t)value;
  return true;
}
static bool decimal(const uint8_t *line, uint8_t size, uint8_t &at, uint8_t digits, uint16_t least, uint16_t most, uint16_t &to) {
  uint32_t value = 0;
  uint8_t count = 0;
  for (; at < size && line[at] >= 48 && line[at] <= 57; at++, count++)
    if (count < digits) value = 10 * value + (uint32_t)(line[at] - 48);
  return count > 0 && count <= digits && within(value, least, most, to);
}
static bool hex(const uint8_t *line, uint8_t size, uint8_t &at, uint8_t digits, uint16_t least, uint16_t most, uint16_t &to) {
  uint32_t value = 0;
  for (uint8_t count = 0; count < digits; count++, at++) {
    if (at >= size) return false;
    const uint8_t it = line[at];
    const uint8_t digit = (uint8_t)(it >= 48 && it <= 57 ? it - 48 : it >= 65 && it <= 70 ? it - 55 : it >= 97 && it <= 102 ? it - 87 : 16);
    if (digit > 15) return false;
    value = 16 * value + digit;
  }
  return within(value, least, most, to);
}
static bool raw(const uint8_t *line, uint8_t size, uint8_t &at, uint8_t count, bool is_little, uint16_t least, uint16_t most, uint16_t &to) {
  uint32_t value = 0;
  if ((uint16_t)(at + count) > size) return false;
  for (uint8_t place = 0; place < count; place++) value = 256 * value + line[is_little ? at + count - 1 - place : at + place];
  at = (uint8_t)(at + count);
  return within(value, least, most, to);
}

"""
DUE: Final = """\
// ---- What comes due: the longest first, then intervals, steps that wait, cues, lamps ----

struct Item { ms_t late; uint8_t kind, at, turn; };
static Item items[INTERVALS + RULES + CUES + LAMPS];

static void look(uint8_t &count, ms_t due, uint8_t kind, uint8_t at, uint8_t turn) {
  if (!is_due(due)) return;
  uint8_t place = count++;
  const ms_t late = since(due);
  while (place > 0 && items[place - 1].late < late) { items[place] = items[place - 1]; place--; }
  items[place] = Item{late, kind, at, turn};
}

static void turn_flash(uint8_t which) {
  Lamp &lamp = lamps[which];
  if (lamp.is_lit && lamp.left == 1) { become(which, lamp.before, 0); return; }
  if (!lamp.is_lit && lamp.left) lamp.left--;
  lamp.mark += lamp.is_lit ? lamp.off_ms : lamp.on_ms;
  lamp.is_lit = !lamp.is_lit;
  lamp.turn++;
}

static void do_due() {
  uint8_t count = 0;
  for (uint8_t at = 0; at < INTERVALS; at++) look(count, intervals_due[at], 0, at, 0);
  for (uint8_t at = 0; at < RULES; at++) if (waits[at].runs) look(count, waits[at].due, 1, at, waits[at].turn);
  for (uint8_t at = 0; at < CUES; at++) if (cues[at].runs) look(count, cues[at].due, 2, at, cues[at].turn);
  for (uint8_t at = 0; at < LAMPS; at++) if (lamps[at].going == FLASHING) look(count, lamps[at].mark, 3, at, lamps[at].turn);
  for (uint8_t place = 0; place < count; place++) {
    const Item it = items[place];
    if (it.kind == 0) {
      intervals_due[it.at] += INTERVAL_MS[it.at];
      happen(INTERVAL_EVENT[it.at], 0);
    } else if (it.kind == 1) {
      if (!waits[it.at].runs || waits[it.at].turn != it.turn) continue;
      waits[it.at].runs = false;
      Came came = waits[it.at].came;
      came.due = waits[it.at].due;
      run_rule(it.at, waits[it.at].place, came);
    } else if (it.kind == 2) {
      if (cues[it.at].runs && cues[it.at].turn == it.turn) picture(it.at, cues[it.at].due);
    } else if (lamps[it.at].going == FLASHING && lamps[it.at].turn == it.turn) {
      turn_flash(it.at);
    }
  }
}

"""

_FUNCTION: Final = re.compile(r"(?:^//[^\n]*\n)*^static [^\n(]{1,40}?\b(\w{1,40})\([^;]*?\{(?:[^\n]*\}\n|.*?^\}\n)", re.M | re.S)


def only_used(text: str, by: str) -> str:
    """Return those functions of a text that another text calls, and those that they call, in their order."""
    found = [(it[1], it[0]) for it in _FUNCTION.finditer(text)]
    wanted, todo = set[str](), [by]
    while todo:
        calls = set(re.findall(r"\b(\w{1,40})\(", todo.pop()))
        for name, body in found:
            if name in calls and name not in wanted:
                wanted.add(name)
                todo.append(body)
    return "".join(body for name, body in found if name in wanted)

"""The last part of a printed program: inputs, pins, and the loop that makes a pass each millisecond."""

from typing import Final

INPUTS_HEAD: Final = """\
// ---- Inputs: a contact counts once it has been the same for its settling time ----

struct InputTable { uint8_t pin; ms_t settle_ms; uint8_t down, up, source; };
static const InputTable INPUT_TABLE[] = {
"""
INPUTS_TAIL: Final = """
};
static void let_go(uint8_t source) {
  const Came came = {EVENTS, source, now_ms, 0, {}};
  for (uint8_t at = 0; at < LAMPS; at++)
    if (lamps[at].held_by == source) set_lamp(at, dark(lamps[at].kept), 0, &came);
}
static void look_at_inputs() {
  for (uint8_t at = 0; at < INPUTS; at++) {
    Input &it = inputs[at];
    const bool level = digitalRead(INPUT_TABLE[at].pin) == HIGH;
    if (level != it.level) { it.level = level; it.changed = now_ms; it.is_settling = true; }
    if (!it.is_settling || since(it.changed) < INPUT_TABLE[at].settle_ms) continue;
    it.is_settling = false;
    if (it.level == it.is_on) continue;
    it.is_on = it.level;
    if (!it.is_on) let_go(INPUT_TABLE[at].source);
    happen(it.is_on ? INPUT_TABLE[at].down : INPUT_TABLE[at].up, INPUT_TABLE[at].source);
  }
}
"""
OUT: Final = """\
// ---- What pins show ----

static uint8_t shown(const Lights &of, uint8_t light) {
  const uint8_t capped = of.cap == 255 ? light : times(light, of.cap);
  return of.is_eyed ? EYE[capped] : capped;
}
static void write_pins() {
  for (uint8_t at = 0; at < PIN_COUNT; at++) {
    const Pin &it = PINS[at];
    uint8_t light[3];
    light_of(lamps[it.lamp], LIGHTS[it.lamp].lights, light);
    uint8_t duty = shown(LIGHTS[it.lamp], light[it.light]);
    if (it.is_inverted) duty = (uint8_t)(255 - duty);
    if (!it.is_dimmed) duty = duty >= 128 ? 1 : 0;
    if (pin_shows[at] == duty) continue;
    pin_shows[at] = duty;
    if (it.is_dimmed) analogWrite(it.pin, duty);
    else digitalWrite(it.pin, duty ? HIGH : LOW);
  }
}
"""
LOOP: Final = """\
static bool has_begun;

void setup() {
  for (uint8_t at = 0; at < PIN_COUNT; at++) {  // off levels first, then the pin is an output
    pin_shows[at] = PINS[at].is_inverted ? (PINS[at].is_dimmed ? 255 : 1) : 0;
    digitalWrite(PINS[at].pin, PINS[at].is_inverted ? HIGH : LOW);
    pinMode(PINS[at].pin, OUTPUT);
  }
  for (uint8_t at = 0; at < LAMPS; at++) {
    lamps[at].kept.level = 255;
    for (uint8_t share = 0; share < 3; share++) lamps[at].kept.colour[share] = 255;
  }
  for (uint8_t at = 0; at < CUES; at++) cues[at].at = -1;
  PORT.begin(PORT_BD);
  now_ms = millis();
  for (uint8_t at = 0; at < INTERVALS; at++) intervals_due[at] = now_ms + INTERVAL_MS[at];
  for (uint8_t at = 0; at < INPUTS; at++) inputs[at].level = inputs[at].is_on = digitalRead(INPUT_TABLE[at].pin) == HIGH;
}

void loop() {  // one pass each millisecond
  const ms_t now = millis();
  if (has_begun && now == now_ms) return;
  now_ms = now;
  if (!has_begun) { has_begun = true; begin(); }
  while (PORT.available() > 0) hear((uint8_t)PORT.read());
  look_at_inputs();
  do_due();
  write_pins();
}
"""

// A board for the tests: pins, the clock, ports and memory, driven from standard input, a line for each thing that happens.
#include "board.h"
#include <deque>
#include <map>
#include <vector>
static uint32_t clock_ms;
static std::map<int, int> levels, shows;
static std::map<int, std::deque<uint8_t>> heard;
static std::deque<uint32_t> codes;
static std::vector<uint8_t> store(4096, 0xFF);
enum { SENDS = -2 };
struct Shift { int data, clock, select; std::vector<int> bits; };
static std::vector<Shift> shifts;
static uint32_t clock_us;
uint32_t millis() { return clock_ms; }
static void tell(int pin, int value) {
  if (shows.count(pin) && shows[pin] == value) return;
  shows[pin] = value;
  std::printf("%u P %d %d\n", clock_ms, pin, value);
}
static void tell_bits(char kind, Shift &it) {
  std::printf("%u %c %d ", clock_ms, kind, it.data);
  for (size_t at = 0; at + 8 <= it.bits.size(); at += 8) {
    int byte = 0;
    for (size_t bit = 0; bit < 8; bit++) byte = 2 * byte + it.bits[at + bit];
    std::printf("%02x", byte);
  }
  std::printf("\n");
  it.bits.clear();
}
// Lines that carry words of bits are read as what hangs on them reads them: at the rise of the clock
static bool is_shifted(int pin, int value) {
  for (Shift &it : shifts) {
    if (it.clock == SENDS && pin == it.data) {  // a carrier: what is dark for long parts what is lit
      if (!value) return true;
      if (!it.bits.empty() && (int)clock_us - it.bits.back() < 100) it.bits.back() = (int)clock_us;
      else it.bits.insert(it.bits.end(), 2, (int)clock_us);  // when it was lit first, and last
      return true;
    }
    if (pin == it.data) { levels[pin] = value; return true; }
    if (pin == it.clock) {
      if (value && !levels[pin]) it.bits.push_back(levels[it.data]);
      levels[pin] = value;
      return true;
    }
    if (pin == it.select && pin >= 0) {
      if (value && !levels[pin] && !it.bits.empty()) {
        tell_bits('M', it);
      }
      levels[pin] = value;
      return true;
    }
  }
  return false;
}
// A code as a receiver takes it: the first light for 9 ms, then the dark times between, of which 32 are bits
static void tell_codes() {
  for (Shift &it : shifts) {
    if (it.clock != SENDS || it.bits.empty()) continue;
    uint32_t code = 0, bits = 0;
    const bool is_begun = it.bits[1] - it.bits[0] > 8000 && it.bits[2] - it.bits[1] > 4000 && it.bits[2] - it.bits[1] < 5000;
    for (size_t at = 3; at + 1 < it.bits.size(); at += 2, bits++) code = code << 1 | (it.bits[at + 1] - it.bits[at] > 1100);
    if (is_begun && bits == 32) std::printf("%u C %d %u\n", clock_ms, it.data, code);
    else std::printf("%u C %d no code of %u bits\n", clock_ms, it.data, bits);
    it.bits.clear();
  }
}
static inline void tell_clocked() {
  tell_codes();
  for (Shift &it : shifts) {
    if (it.select >= 0 || it.clock < 0 || it.bits.empty()) continue;
    tell_bits('K', it);
  }
}
// A sensor on one line: let go after a low of a millisecond at least, it tells 40 bits, the longer highs being ones
struct OneLineSensor { uint32_t bits; uint32_t fell_ms, begun_us; bool talks; };
static std::map<int, OneLineSensor> sensors;
static int sensed(const OneLineSensor &it) {
  if (!it.talks) return HIGH;
  const uint32_t bits = it.bits, sum = (bits >> 24) + (bits >> 16 & 255) + (bits >> 8 & 255) + (bits & 255);
  const uint64_t whole = (uint64_t)bits << 8 | (sum & 255);
  uint32_t at = clock_us - it.begun_us;
  const uint32_t before[3] = {30, 80, 80};
  for (int one = 0; one < 3; at -= before[one++]) if (at < before[one]) return one != 1;
  for (int bit = 39; bit >= 0; bit--) {
    const uint32_t high = whole >> bit & 1 ? 70 : 27;
    if (at < 50 + high) return at >= 50;
    at -= 50 + high;
  }
  return at >= 50;
}
void pinMode(int pin, int mode) {
  if (!sensors.count(pin)) return;
  OneLineSensor &it = sensors[pin];
  if (mode == OUTPUT) it.fell_ms = clock_ms;
  it.talks = mode != OUTPUT && clock_ms - it.fell_ms >= 1;
  it.begun_us = clock_us;
}
void digitalWrite(int pin, int value) { if (!sensors.count(pin) && !is_shifted(pin, value)) tell(pin, value); }
void analogWrite(int pin, int value) { tell(pin, value); }
int digitalRead(int pin) { return sensors.count(pin) ? sensed(sensors[pin]) : levels[pin]; }
uint16_t read_turned(int pin) { return (uint16_t)levels[pin]; }
void tone(int pin, uint16_t pitch_hz) { tell(pin, pitch_hz); }
void noTone(int) {}
void delayMicroseconds(uint16_t lasts) { clock_us += lasts; }
uint32_t micros() { return clock_us += 2; }
void board_begin() {}
void usb_begin() {}
void usb_say(const char *text) { std::printf("%u T %s\n", clock_ms, text); }
void delay(uint32_t lasts) { clock_ms += lasts; }
int analogRead(int pin) { return levels[pin]; }
int port_available(uint8_t port) { return (int)heard[port].size(); }
uint8_t port_read(uint8_t port) { const uint8_t byte = heard[port].front(); heard[port].pop_front(); return byte; }
void port_write(uint8_t port, const uint8_t *content, uint16_t size) {
  std::printf("%u S %d", clock_ms, port);
  for (size_t at = 0; at < size; at++) std::printf(" %d", content[at]);
  std::printf("\n");
}
void write_one_wire(int pin, const uint8_t *bytes, uint16_t count) {
  std::printf("%u W %d ", clock_ms, pin);
  for (uint16_t at = 0; at < count; at++) std::printf("%02x", bytes[at]);
  std::printf("\n");
}
bool code_came(uint32_t &code) {
  if (codes.empty()) return false;
  code = codes.front();
  codes.pop_front();
  return true;
}
void codes_begin(int) {}
uint8_t store_read(uint16_t at) { return store.at(at); }
void store_write(uint16_t at, uint8_t byte) { store.at(at) = byte; }
bool store_is_ready() { return true; }
void store_done() {}
static uint32_t chip_time_ms, chip_asked_ms;
static bool has_chip, has_chip_stopped;
bool clock_read(uint32_t &of_day_ms) { of_day_ms = (chip_time_ms + clock_ms - chip_asked_ms) / 1000 * 1000 % 86400000; return has_chip; }
bool clock_has_stopped() { return has_chip_stopped; }
void clock_set(uint32_t of_day_ms) { chip_time_ms = of_day_ms; chip_asked_ms = clock_ms; has_chip_stopped = false; }
void chips_begin() {}
void chips_go() {}
void chip_switch(uint8_t place, bool is_high) { tell(1000 + place, is_high); }
void chip_dim(uint8_t place, uint16_t duty) { tell(1000 + place, duty); }
// The program under test, and how its clock is set where it has one
void setup();
void loop();
void set_time(uint32_t of_day_ms);
#ifdef LOOPBACK
#include "loopback.h"
#else
#include "net.h"
// Reads what happens, a line each: time, what, and two numbers. "T" begins there, "R" a byte of the memory, "X" lines that carry
// bits, "B" a byte at a port, "L" a pin's level, "I" a code of a remote,
// "N" "D" "G" "Q" and "U" somebody who calls by radio, bytes, the end of a packet, who leaves, the network up or down,
// "K" the time of day after the pass, "Y" asks for what was told up to then, "E" the end.
// What happens at a time is there for the pass of that time; a pass is made each millisecond.
int main() {
  uint32_t at, next = 0;
  char what;
  long a, b, c;
  bool has_begun = false, clock_waits = false;
  long clock_set = 0;
  while (std::scanf("%u %c %ld %ld %ld", &at, &what, &a, &b, &c) == 5) {
    if (what == 'T') { next = at; continue; }
    if (what == 'R') { store.at((size_t)a) = (uint8_t)b; continue; }
    if (what == 'H') { sensors[(int)a].bits = (uint32_t)b; continue; }
    if (what == 'X') { shifts.push_back(Shift{(int)a, (int)b, (int)c, {}}); continue; }
    if (what == 'L' && !has_begun && at == next) { levels[(int)a] = (int)b; continue; }
    if (!has_begun) { clock_ms = next; setup(); has_begun = true; }
    for (; next != at; next++) {
      clock_ms = next;
      loop();
      tell_clocked();
      if (clock_waits) set_time((uint32_t)clock_set);
      clock_waits = false;
    }
    if (what == 'B') heard[(int)b].push_back((uint8_t)a);
    if (what == 'L') levels[(int)a] = (int)b;
    if (what == 'I') codes.push_back((uint32_t)a);
    happens_at_net(what, a, b);
    if (what == 'K') { clock_waits = true; clock_set = a; }
    if (what == 'O') { has_chip = true; has_chip_stopped = b != 0; chip_time_ms = (uint32_t)a; chip_asked_ms = at; }
    if (what == 'Y') { std::printf("%u Y\n", at); std::fflush(stdout); }
    if (what == 'E') { clock_ms = next++; loop(); tell_clocked(); }
  }
  for (size_t place = 0; place < store.size(); place++) if (store[place] != 0xFF) std::printf("0 R %u %d\n", (unsigned)place, store[place]);
  return 0;
}
#endif

// A board for the tests: pins, the clock and one port, driven from standard input, a line for each thing that happens.
#include <cstdint>
#include <cstdio>
#include <deque>
#include <map>
enum { LOW = 0, HIGH = 1, INPUT = 0, OUTPUT = 1 };
static uint32_t clock_ms;
static std::map<int, int> levels, shows;
static std::deque<uint8_t> heard;
static uint32_t millis() { return clock_ms; }
static void tell(int pin, int value) {
  if (shows.count(pin) && shows[pin] == value) return;
  shows[pin] = value;
  std::printf("%u P %d %d\n", clock_ms, pin, value);
}
static void pinMode(int, int) {}
static void digitalWrite(int pin, int value) { tell(pin, value); }
static void analogWrite(int pin, int value) { tell(pin, value); }
static int digitalRead(int pin) { return levels[pin]; }
struct Port {
  void begin(uint32_t) {}
  int available() { return (int)heard.size(); }
  int read() { int byte = heard.front(); heard.pop_front(); return byte; }
  void write(const uint8_t *content, size_t size) {
    std::printf("%u S", clock_ms);
    for (size_t at = 0; at < size; at++) std::printf(" %d", content[at]);
    std::printf("\n");
  }
};
static Port PORT;

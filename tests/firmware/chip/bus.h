// The two wires of chips beside the board, as far as programs are compiled for them here.
#pragma once
#pragma GCC system_header
struct TwoWires {
  void begin() {}
  void beginTransmission(uint8_t address) { GPIOR1 = address; }
  uint8_t endTransmission() { return 0; }
  uint8_t requestFrom(uint8_t address, uint8_t count) { GPIOR1 = address; return count; }
  int read() { return GPIOR2; }
  void write(uint8_t byte) { GPIOR2 = byte; }
};
static TwoWires Wire;

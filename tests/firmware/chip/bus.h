// The two wires of chips beside the board, as far as programs are compiled for them here.
#pragma once
#pragma GCC system_header
struct TwoWires {
  void begin() {}
  void beginTransmission(uint8_t address) { GPIOR1 = address; }
  void endTransmission() {}
  void write(uint8_t byte) { GPIOR2 = byte; }
};
static TwoWires Wire;

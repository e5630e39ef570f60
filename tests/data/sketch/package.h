// What a sketch of ours may use of a board package, declared and no more: enough for a compiler to read it.
#pragma once
#include <stddef.h>
#include <stdint.h>
typedef uint8_t byte;
struct Stream {
  void begin(long baud);
  int available();
  int read();
  size_t write(int value);
};
extern Stream Serial, Serial1, Serial2, Serial3;
void setup();
void loop();

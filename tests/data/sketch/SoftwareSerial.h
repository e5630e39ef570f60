#pragma once
#include "package.h"
struct SoftwareSerial : Stream {
  SoftwareSerial(int receive_pin, int transmit_pin);
};

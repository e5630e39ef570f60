// A board that runs in real time: levels of its pins come in as lines, pin and level, and what its pins show goes out.
int main() {
  char line[64];
  setvbuf(stdout, nullptr, _IOLBF, 0);
  fcntl(0, F_SETFL, O_NONBLOCK);
  const uint32_t began = real_ms();
  open_door(0);
  open_door(1);
  setup();
  for (;;) {
    pollfd in = {0, POLLIN, 0};
    if (poll(&in, 1, 1) > 0) {
      const ssize_t size = read(0, line, sizeof line - 1);
      if (size == 0) return 0;  // whoever started it has gone
      line[size > 0 ? size : 0] = 0;
      int pin, level;
      if (std::sscanf(line, "%d %d", &pin, &level) == 2) levels[pin] = level;
    }
    clock_ms = real_ms() - began;
    loop();
    tell_clocked();
  }
}

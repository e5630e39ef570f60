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
      if (clock_waits) SET_CLOCK((uint32_t)clock_set);
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

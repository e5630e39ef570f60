// Reads what happens, a line each: "time T 0 0" begins there, "time B byte 0", "time L pin level", and "time E 0 0" at the end.
// What happens at a time is there for the pass of that time; a pass is made each millisecond.
int main() {
  uint32_t at, next = 0;
  char what;
  int a, b;
  bool has_begun = false;
  while (std::scanf("%u %c %d %d", &at, &what, &a, &b) == 4) {
    if (what == 'T') { next = at; continue; }
    if (!has_begun) { clock_ms = next; setup(); has_begun = true; }
    for (; next != at; next++) { clock_ms = next; loop(); }
    if (what == 'B') heard.push_back((uint8_t)a);
    if (what == 'L') levels[a] = b;
    if (what == 'E') { clock_ms = next++; loop(); }
  }
  return 0;
}

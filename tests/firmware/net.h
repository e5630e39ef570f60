// The radio of the tests' board: whoever calls it stands in the lines that drive it, and what is sent to them is told.
#include <set>
static std::map<int, std::deque<int>> waits;              // at a door, by whom
static std::map<int, int> slots;                          // of the board, by whom each is taken
static std::map<int, std::deque<uint8_t>> net_heard;      // by whom
static std::deque<std::vector<uint8_t>> packets;
static std::vector<uint8_t> packet_being;
static std::set<int> gone;
static bool is_net_up = true;
enum { BROKER_AT = 99, PACKETS_AT = -1 };
static inline void tell_sent(int whom, const uint8_t *content, uint16_t size) {
  std::printf("%u O %d ", clock_ms, whom);
  for (uint16_t at = 0; at < size; at++) std::printf("%02x", content[at]);
  std::printf("\n");
}
static inline void net_look() {}
static inline bool net_is_up() { return is_net_up; }
static inline bool net_accept(uint8_t door, uint8_t guest) {
  if (waits[door].empty()) return false;
  slots[guest] = waits[door].front();
  waits[door].pop_front();
  return true;
}
static inline bool net_call(uint8_t guest) {
  slots[guest] = BROKER_AT;
  std::printf("%u V %d\n", clock_ms, BROKER_AT);
  return !gone.count(BROKER_AT);
}
static inline bool net_is_open(uint8_t guest) { return !gone.count(slots[guest]) || !net_heard[slots[guest]].empty(); }
static inline int16_t net_read(uint8_t guest) {
  std::deque<uint8_t> &it = net_heard[slots[guest]];
  if (it.empty()) return -1;
  const uint8_t byte = it.front();
  it.pop_front();
  return byte;
}
static inline uint16_t net_room(uint8_t) { return 700; }
static inline bool net_write(uint8_t guest, const uint8_t *content, uint16_t size) { tell_sent(slots[guest], content, size); return true; }
static inline void net_close(uint8_t guest) { std::printf("%u Z %d\n", clock_ms, slots[guest]); }
static inline uint16_t packet_read(uint8_t *content, uint16_t most) {
  if (packets.empty()) return 0;
  const std::vector<uint8_t> it = packets.front();
  packets.pop_front();
  const uint16_t size = (uint16_t)(it.size() < most ? it.size() : most);
  memcpy(content, it.data(), size);
  return size;
}
static inline void packet_say(const uint8_t *content, uint16_t size) { tell_sent(PACKETS_AT, content, size); }
static inline bool net_time(uint32_t &) { return false; }
static void happens_at_net(char what, long a, long b) {
  if (what == 'N') { waits[(int)a].push_back((int)b); gone.erase((int)b); }
  if (what == 'D' && b == PACKETS_AT) packet_being.push_back((uint8_t)a);
  else if (what == 'D') net_heard[(int)b].push_back((uint8_t)a);
  if (what == 'G') { packets.push_back(packet_being); packet_being.clear(); }
  if (what == 'Q') gone.insert((int)b);
  if (what == 'U') is_net_up = a != 0;
}

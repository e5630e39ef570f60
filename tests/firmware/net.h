// The radio of the tests' board: whoever calls it stands in the lines that drive it, and what is sent to them is told.
#include <set>
static std::map<int, std::deque<int>> net_waits;              // at a door, by whom
static std::map<int, int> net_slots;                          // of the board, by whom each is taken
static std::map<int, std::deque<uint8_t>> net_heard;      // by whom
static std::deque<std::vector<uint8_t>> net_packets;
static std::vector<uint8_t> net_being;
static std::set<int> net_gone;
static bool is_net_up = true;
enum { BROKER_AT = 99, PACKETS_AT = -1 };
static inline void tell_sent(int whom, const uint8_t *content, uint16_t size) {
  std::printf("%u O %d ", clock_ms, whom);
  for (uint16_t at = 0; at < size; at++) std::printf("%02x", content[at]);
  std::printf("\n");
}
void net_look() {}
bool net_is_up() { return is_net_up; }
bool net_accept(uint8_t door, uint8_t guest) {
  if (net_waits[door].empty()) return false;
  net_slots[guest] = net_waits[door].front();
  net_waits[door].pop_front();
  return true;
}
bool net_call(uint8_t guest) {
  net_slots[guest] = BROKER_AT;
  std::printf("%u V %d\n", clock_ms, BROKER_AT);
  return !net_gone.count(BROKER_AT);
}
bool net_is_open(uint8_t guest) { return !net_gone.count(net_slots[guest]) || !net_heard[net_slots[guest]].empty(); }
int16_t net_read(uint8_t guest) {
  std::deque<uint8_t> &it = net_heard[net_slots[guest]];
  if (it.empty()) return -1;
  const uint8_t byte = it.front();
  it.pop_front();
  return byte;
}
uint16_t net_room(uint8_t) { return 700; }
bool net_write(uint8_t guest, const uint8_t *content, uint16_t size) { tell_sent(net_slots[guest], content, size); return true; }
void net_close(uint8_t guest) { std::printf("%u Z %d\n", clock_ms, net_slots[guest]); }
uint16_t packet_read(uint8_t *content, uint16_t most) {
  if (net_packets.empty()) return 0;
  const std::vector<uint8_t> it = net_packets.front();
  net_packets.pop_front();
  const uint16_t size = (uint16_t)(it.size() < most ? it.size() : most);
  memcpy(content, it.data(), size);
  return size;
}
void packet_say(const uint8_t *content, uint16_t size) { tell_sent(PACKETS_AT, content, size); }
void net_take_over() { std::printf("%u H handed\n", clock_ms); }
void net_ask() { std::printf("%u H asks\n", clock_ms); }
static bool has_joined;
void net_join(const char *network, const char *password) { std::printf("%u H joins [%s] [%s]\n", clock_ms, network, password); has_joined = true; }
bool net_has_joined() { return has_joined; }
bool net_time(uint32_t &) { return false; }
static inline void happens_at_net(char what, long a, long b) {
  if (what == 'N') { net_waits[(int)a].push_back((int)b); net_gone.erase((int)b); }
  if (what == 'D' && b == PACKETS_AT) net_being.push_back((uint8_t)a);
  else if (what == 'D') net_heard[(int)b].push_back((uint8_t)a);
  if (what == 'G') { net_packets.push_back(net_being); net_being.clear(); }
  if (what == 'Q') net_gone.insert((int)b);
  if (what == 'U') is_net_up = a != 0;
}

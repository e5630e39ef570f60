// The radio of the tests' board as real lines of this machine: the compiled program serves a real browser, in real time.
#include <arpa/inet.h>
#include <cstdlib>
#include <fcntl.h>
#include <poll.h>
#include <sys/socket.h>
#include <time.h>
#include <unistd.h>
static int doors[2], net_guests[16];
static bool is_gone[16];
static void open_door(int which) {
  sockaddr_in at = {};
  socklen_t size = sizeof at;
  at.sin_family = AF_INET;
  at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  doors[which] = socket(AF_INET, SOCK_STREAM | SOCK_NONBLOCK, 0);
  if (bind(doors[which], (sockaddr *)&at, sizeof at) || listen(doors[which], 8)) std::exit(3);
  getsockname(doors[which], (sockaddr *)&at, &size);
  std::printf("0 A %d %d\n", which, ntohs(at.sin_port));
}
static inline void net_look() {}
static inline bool net_is_up() { return true; }
static inline bool net_accept(uint8_t door, uint8_t guest) {
  const int it = accept4(doors[door], nullptr, nullptr, SOCK_NONBLOCK);
  if (it < 0) return false;
  net_guests[guest] = it;
  is_gone[guest] = false;
  return true;
}
static inline bool net_call(uint8_t guest) {
  const char *port = std::getenv("BROKER_PORT");
  sockaddr_in at = {};
  if (!port) return false;
  at.sin_family = AF_INET;
  at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  at.sin_port = htons((uint16_t)std::atoi(port));
  net_guests[guest] = socket(AF_INET, SOCK_STREAM, 0);
  is_gone[guest] = connect(net_guests[guest], (sockaddr *)&at, sizeof at) != 0;
  return !is_gone[guest];
}
static inline int16_t net_read(uint8_t guest) {
  uint8_t byte;
  const ssize_t count = recv(net_guests[guest], &byte, 1, MSG_DONTWAIT);
  if (count == 0) is_gone[guest] = true;
  return count == 1 ? (int16_t)byte : (int16_t)-1;
}
static inline bool net_is_open(uint8_t guest) { return !is_gone[guest]; }
static inline uint16_t net_room(uint8_t) { return 700; }
static inline bool net_write(uint8_t guest, const uint8_t *content, uint16_t size) {
  for (uint16_t at = 0; at < size;) {
    const ssize_t count = send(net_guests[guest], content + at, (size_t)(size - at), MSG_NOSIGNAL);
    if (count < 0) { is_gone[guest] = true; return false; }
    at = (uint16_t)(at + count);
  }
  return true;
}
static inline void net_close(uint8_t guest) { close(net_guests[guest]); }
static inline uint16_t packet_read(uint8_t *, uint16_t) { return 0; }
static inline void packet_say(const uint8_t *, uint16_t) {}
static inline void net_take_over() {}
static inline void net_ask() {}
static inline void net_join(const char *, const char *) {}
static inline bool net_has_joined() { return false; }
static inline bool net_time(uint32_t &) { return false; }
static uint32_t real_ms() {
  timespec it;
  clock_gettime(CLOCK_MONOTONIC, &it);
  return (uint32_t)(it.tv_sec * 1000 + it.tv_nsec / 1000000);
}

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
void net_look() {}
bool net_is_up() { return true; }
bool net_accept(uint8_t door, uint8_t guest) {
  const int it = accept4(doors[door], nullptr, nullptr, SOCK_NONBLOCK);
  if (it < 0) return false;
  net_guests[guest] = it;
  is_gone[guest] = false;
  return true;
}
bool net_call(uint8_t guest) {
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
int16_t net_read(uint8_t guest) {
  uint8_t byte;
  const ssize_t count = recv(net_guests[guest], &byte, 1, MSG_DONTWAIT);
  if (count == 0) is_gone[guest] = true;
  return count == 1 ? (int16_t)byte : (int16_t)-1;
}
bool net_is_open(uint8_t guest) { return !is_gone[guest]; }
uint16_t net_room(uint8_t) { return 700; }
bool net_write(uint8_t guest, const uint8_t *content, uint16_t size) {
  for (uint16_t at = 0; at < size;) {
    const ssize_t count = send(net_guests[guest], content + at, (size_t)(size - at), MSG_NOSIGNAL);
    if (count < 0) { is_gone[guest] = true; return false; }
    at = (uint16_t)(at + count);
  }
  return true;
}
void net_close(uint8_t guest) { close(net_guests[guest]); }
uint16_t packet_read(uint8_t *, uint16_t) { return 0; }
void packet_say(const uint8_t *, uint16_t) {}
void net_take_over() {}
void net_ask() {}
void net_join(const char *, const char *) {}
bool net_has_joined() { return false; }
bool net_time(uint32_t &) { return false; }
static uint32_t real_ms() {
  timespec it;
  clock_gettime(CLOCK_MONOTONIC, &it);
  return (uint32_t)(it.tv_sec * 1000 + it.tv_nsec / 1000000);
}
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

// What the board of the tests has for a program: what it does stands in board.cpp, which is compiled once for all programs.
#include <cstddef>
#include <cstdint>
#include <cstdio>
#include <cstring>
enum { LOW = 0, HIGH = 1, INPUT = 0, OUTPUT = 1, INPUT_PULLUP = 2 };
#define IN_FLASH
template <class T> static const T &from_flash(const T &it) { return it; }
static inline uint8_t flash_byte(const uint8_t *at) { return *at; }
enum : uint8_t { A0 = 54, A1, A2, A3, A4, A5, A6, A7, A8, A9, A10, A11, A12, A13, A14, A15 };
uint32_t millis();
void pinMode(int pin, int mode);
void digitalWrite(int pin, int value);
void analogWrite(int pin, int value);
int digitalRead(int pin);
uint16_t read_turned(int pin);
void tone(int pin, uint16_t pitch_hz);
void noTone(int);
void delayMicroseconds(uint16_t lasts);
uint32_t micros();
void board_begin();
void usb_begin();
void usb_say(const char *text);
void delay(uint32_t lasts);
int analogRead(int pin);
int port_available(uint8_t port);
uint8_t port_read(uint8_t port);
void port_write(uint8_t port, const uint8_t *content, uint16_t size);
void write_one_wire(int pin, const uint8_t *bytes, uint16_t count);
bool code_came(uint32_t &code);
void codes_begin(int);
uint8_t store_read(uint16_t at);
void store_write(uint16_t at, uint8_t byte);
bool store_is_ready();
void store_done();
bool clock_read(uint32_t &of_day_ms);
bool clock_has_stopped();
void clock_set(uint32_t of_day_ms);
void chips_begin();
void chips_go();
void chip_switch(uint8_t place, bool is_high);
void chip_dim(uint8_t place, uint16_t duty);
void net_look();
bool net_is_up();
bool net_accept(uint8_t door, uint8_t guest);
bool net_call(uint8_t guest);
bool net_is_open(uint8_t guest);
int16_t net_read(uint8_t guest);
uint16_t net_room(uint8_t);
bool net_write(uint8_t guest, const uint8_t *content, uint16_t size);
void net_close(uint8_t guest);
uint16_t packet_read(uint8_t *content, uint16_t most);
void packet_say(const uint8_t *content, uint16_t size);
void net_take_over();
void net_ask();
void net_join(const char *network, const char *password);
bool net_has_joined();
bool net_time(uint32_t &);

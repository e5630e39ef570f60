// What the packages of boards with a radio bring, as far as a printed header asks for it: to see that it is spoken to rightly.
#pragma once
#include <cstddef>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <ctime>
#include <string>
enum { LOW, HIGH, INPUT, OUTPUT, INPUT_PULLUP, FALLING };
#define PROGMEM
#define IRAM_ATTR
#define memcpy_P memcpy
#define F_CPU 80000000UL
static inline uint8_t pgm_read_byte(const void *at) { return *(const uint8_t *)at; }
static inline void pinMode(uint8_t, uint8_t) {}
static inline void digitalWrite(uint8_t, uint8_t) {}
static inline int digitalRead(uint8_t) { return LOW; }
static inline int analogRead(uint8_t) { return 0; }
static inline void analogWrite(uint8_t, int) {}
static inline void delayMicroseconds(unsigned) {}
static inline void tone(uint8_t, unsigned) {}
static inline void noTone(uint8_t) {}
static inline void analogReadResolution(uint8_t) {}
static inline void analogWriteResolution(uint8_t) {}
static inline uint32_t micros() { return 0; }
static inline void noInterrupts() {}
static inline void interrupts() {}
static inline int digitalPinToInterrupt(uint8_t pin) { return pin; }
static inline void attachInterrupt(int, void (*)(), int) {}
struct IPAddress { operator bool() const { return true; } };
struct Text { size_t length() const { return 0; } };
struct Port {
  void begin(unsigned long) {}
  void println(IPAddress) {}
  void print(const char *) {}
  int available() { return 0; }
  int read() { return -1; }
  size_t write(const uint8_t *, size_t size) { return size; }
};
static Port Serial, Serial1, Serial2;
struct Chip { uint32_t getCycleCount() { return 0; } };
static Chip CHIP;  // whatever the header calls it
enum wl_status_t { WL_CONNECTED = 3 };
enum WiFiMode_t { WIFI_STA = 1, WIFI_AP, WIFI_AP_STA };
enum WiFiSleepType_t { WIFI_NONE_SLEEP };
struct WiFiClient {
  explicit operator bool() const { return true; }
  uint8_t connected() { return 1; }
  int available() { return 0; }
  int read() { return -1; }
  size_t write(const uint8_t *, size_t size) { return size; }
  int availableForWrite() { return 256; }
  void stop() {}
  void setNoDelay(bool) {}
  void setTimeout(unsigned long) {}
  int connect(const char *, uint16_t) { return 1; }
};
struct WiFiServer {
  explicit WiFiServer(uint16_t) {}
  void begin() {}
  WiFiClient accept() { return WiFiClient(); }
};
struct WiFiUDP {
  uint8_t begin(uint16_t) { return 1; }
  int parsePacket() { return 0; }
  int read(uint8_t *, size_t) { return 0; }
  IPAddress remoteIP() { return IPAddress(); }
  uint16_t remotePort() { return 1; }
  int beginPacket(IPAddress, uint16_t) { return 1; }
  size_t write(const uint8_t *, size_t size) { return size; }
  int endPacket() { return 1; }
};
struct Radio {
  void persistent(bool) {}
  bool mode(WiFiMode_t) { return true; }
  void setAutoReconnect(bool) {}
  wl_status_t begin() { return WL_CONNECTED; }
  wl_status_t begin(const char *, const char *) { return WL_CONNECTED; }
  bool softAP(const char *, const char *) { return true; }
  bool setSleep(bool) { return true; }
  bool setSleepMode(WiFiSleepType_t) { return true; }
  wl_status_t status() { return WL_CONNECTED; }
  uint8_t softAPgetStationNum() { return 1; }
  IPAddress localIP() { return IPAddress(); }
  IPAddress softAPIP() { return IPAddress(); }
  bool disconnect() { return true; }
  bool TAKE_OVER() { return true; }
  Text SSID() { return Text(); }
};
static Radio WiFi;
static inline void configTime(const char *, const char *) {}
static inline void configTzTime(const char *, const char *) {}
enum { KEPT_AT, KEPT_OK = 0 };
struct KEPT { struct { uint8_t ssid[32]; } sta; };
static inline int GET_KEPT(int, KEPT *) { return KEPT_OK; }
struct Bus {
  void begin() {}
  void beginTransmission(uint8_t) {}
  size_t write(uint8_t) { return 1; }
  uint8_t endTransmission() { return 0; }
  uint8_t requestFrom(uint8_t, uint8_t count) { return count; }
  int read() { return 0; }
};
static Bus Wire;
struct Store {
  void begin(size_t) {}
  uint8_t read(int) { return 255; }
  void write(int, uint8_t) {}
  bool commit() { return true; }
};
static Store EEPROM;

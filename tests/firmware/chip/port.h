// A minimal port of the interface that board packages bring, for 8-bit chips of 20 and of 70 pins, written for the tests.
// What pins show is told to the harness in three registers that programs do not use; one-wire pixels change real pins.
#pragma once
#pragma GCC system_header
#include <avr/eeprom.h>
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <stddef.h>
#include <stdint.h>
#include <util/delay_basic.h>
#define HIGH 1
#define LOW 0
#define INPUT 0
#define OUTPUT 1
#define INPUT_PULLUP 2
#define FALLING 2
#if IS_LARGE
static const uint8_t A0 = 54;
#define PORT_OF(n) (n == 0 ? &PORTA : n == 1 ? &PORTB : n == 2 ? &PORTC : n == 3 ? &PORTD : n == 4 ? &PORTF : n == 5 ? &PORTH : n == 6 ? &PORTK : n == 7 ? &PORTL : &PORTJ)
#define digitalPinToPort(pin) ((pin) / 8)
#define digitalPinToBitMask(pin) ((uint8_t)(1 << ((pin) % 8)))
#define ANALOG(pin) ((pin) - 54)
#define RX_VECTOR USART0_RX_vect
#else
static const uint8_t A0 = 14;
#define PORT_OF(n) (n == 0 ? &PORTD : n == 1 ? &PORTB : &PORTC)
#define digitalPinToPort(pin) ((pin) < 8 ? 0 : (pin) < 14 ? 1 : 2)
#define digitalPinToBitMask(pin) ((uint8_t)(1 << ((pin) < 8 ? (pin) : (pin) < 14 ? (pin) - 8 : (pin) - 14)))
#define ANALOG(pin) ((pin) - 14)
#define RX_VECTOR USART_RX_vect
#endif
static const uint8_t A1 = A0 + 1, A2 = A0 + 2, A3 = A0 + 3, A4 = A0 + 4, A5 = A0 + 5;
#if IS_LARGE
enum : uint8_t { A6 = 60, A7, A8, A9, A10, A11, A12, A13, A14, A15 };
#endif
#define portOutputRegister(port) PORT_OF(port)
static inline volatile uint8_t *mode_of(uint8_t pin) { return PORT_OF(digitalPinToPort(pin)) - 1; }
static inline volatile uint8_t *in_of(uint8_t pin) { return PORT_OF(digitalPinToPort(pin)) - 2; }

static inline void tell(uint8_t pin, uint16_t value) {
  const uint8_t kept = SREG;
  cli();
  GPIOR1 = pin;
  GPIOR2 = (uint8_t)value;
  GPIOR0 = (uint8_t)(0x80 | value >> 8);
  SREG = kept;
}
static void digitalWrite(uint8_t pin, uint8_t value) {
  volatile uint8_t *port = PORT_OF(digitalPinToPort(pin));
  const uint8_t kept = SREG;
  cli();
  if (value) *port |= digitalPinToBitMask(pin); else *port &= (uint8_t)~digitalPinToBitMask(pin);
  SREG = kept;
  tell(pin, value);
}
static void pinMode(uint8_t pin, uint8_t mode) {
  if (mode == OUTPUT) *mode_of(pin) |= digitalPinToBitMask(pin);
  else *mode_of(pin) &= (uint8_t)~digitalPinToBitMask(pin);
  if (mode == INPUT_PULLUP) *PORT_OF(digitalPinToPort(pin)) |= digitalPinToBitMask(pin);
}
static int digitalRead(uint8_t pin) { return *in_of(pin) & digitalPinToBitMask(pin) ? HIGH : LOW; }
static void analogWrite(uint8_t pin, int value) { tell(pin, (uint16_t)value); }
static int analogRead(uint8_t pin) {
  ADMUX = (uint8_t)(0x40 | ANALOG(pin));
  ADCSRA = 0xC7;
  while (ADCSRA & 0x40) {}
  return (int)ADC;
}
static inline void tone(uint8_t pin, uint16_t pitch_hz) { tell(pin, pitch_hz); }
static inline void noTone(uint8_t) {}

// The clock: an overflow each 1.024 ms, and a whole millisecond more each time the rest has come together
static volatile uint32_t clock_ms;
static volatile uint8_t clock_rest;
ISR(TIMER0_OVF_vect) {
  clock_ms += 1;
  clock_rest = (uint8_t)(clock_rest + 3);
  if (clock_rest >= 125) { clock_rest = (uint8_t)(clock_rest - 125); clock_ms += 1; }
}
static uint32_t millis() {
  const uint8_t kept = SREG;
  cli();
  const uint32_t now = clock_ms;
  SREG = kept;
  return now;
}
static inline void delayMicroseconds(uint16_t lasts) { _delay_loop_2((uint16_t)(4 * lasts)); }
static uint32_t micros() { return 1000UL * millis() + 4UL * TCNT0; }
static inline void noInterrupts() { cli(); }
static inline void interrupts() { sei(); }
static inline void attachInterrupt(uint8_t, void (*)(), int) {}
#define digitalPinToInterrupt(pin) (pin)

// A port of the chip: 64 bytes wait, one less than there are places
static volatile uint8_t ring[64], ring_in, ring_out;
ISR(RX_VECTOR) {
  const uint8_t byte = UDR0, next = (uint8_t)((ring_in + 1) % 64);
  if (next == ring_out) return;
  ring[ring_in] = byte;
  ring_in = next;
}
struct ChipPort {
  void begin(uint32_t speed_bd) {
    UCSR0A = 2;
    UBRR0 = (uint16_t)((F_CPU / 4 / speed_bd - 1) / 2);
    UCSR0B = 0x98;
  }
  int available() { return (uint8_t)(64 + ring_in - ring_out) % 64; }
  int read() { const uint8_t byte = ring[ring_out]; ring_out = (uint8_t)((ring_out + 1) % 64); return byte; }
  void write(const uint8_t *content, size_t size) {
    for (size_t at = 0; at < size; at++) { while (!(UCSR0A & 0x20)) {} UDR0 = content[at]; }
  }
};
static ChipPort Serial, Serial1, Serial2, Serial3;

// A port in software: a byte begins with a low, and its bits are looked at in their middles
#if !IS_LARGE
struct SoftPort;
static SoftPort *soft;
struct SoftPort {
  uint8_t rx, tx, in, out;
  uint16_t bit;
  volatile uint8_t *rx_in, *tx_port;
  uint8_t rx_mask, tx_mask;
  uint8_t ring[64];
  SoftPort(uint8_t rx_, uint8_t tx_) : rx(rx_), tx(tx_), in(0), out(0), bit(0) {}
  void begin(uint32_t speed_bd) {
    bit = (uint16_t)(F_CPU / speed_bd / 4);
    digitalWrite(tx, HIGH);
    pinMode(tx, OUTPUT);
    pinMode(rx, INPUT_PULLUP);
    soft = this;
    rx_in = in_of(rx);
    rx_mask = digitalPinToBitMask(rx);
    tx_port = PORT_OF(digitalPinToPort(tx));
    tx_mask = digitalPinToBitMask(tx);
    PCICR = 7;
    (digitalPinToPort(rx) == 0 ? PCMSK2 : digitalPinToPort(rx) == 1 ? PCMSK0 : PCMSK1) = digitalPinToBitMask(rx);
  }
  void edge() {
    if (*rx_in & rx_mask) return;
    uint8_t byte = 0;
    _delay_loop_2((uint16_t)(bit / 2 - 20));  // what it takes to get here
    for (uint8_t at = 0; at < 8; at++) {
      _delay_loop_2((uint16_t)(bit - 4));
      byte = (uint8_t)(byte >> 1 | (*rx_in & rx_mask ? 0x80 : 0));
    }
    _delay_loop_2((uint16_t)(bit / 4 * 3));  // well into the stop bit, which may come late
    const uint8_t next = (uint8_t)((in + 1) % 64);
    if (next != out) { ring[in] = byte; in = next; }
    PCIFR = 7;
  }
  int available() { return (uint8_t)(64 + in - out) % 64; }
  int read() { const uint8_t byte = ring[out]; out = (uint8_t)((out + 1) % 64); return byte; }
  void write(const uint8_t *content, size_t size) {
    for (size_t at = 0; at < size; at++) {
      const uint8_t kept = SREG;
      cli();
      uint16_t bits = (uint16_t)(content[at] << 1 | 0x200);
      for (uint8_t one = 0; one < 10; one++, bits >>= 1) {
        if (bits & 1) *tx_port |= tx_mask;
        else *tx_port &= (uint8_t)~tx_mask;
        _delay_loop_2((uint16_t)(bit - 4));
      }
      SREG = kept;
    }
  }
};
ISR(PCINT0_vect) { soft->edge(); }
ISR(PCINT1_vect) { soft->edge(); }
ISR(PCINT2_vect) { soft->edge(); }
#define SoftwareSerial SoftPort
#endif

void setup();
void loop();
int main() {
  TCCR0A = 3;
  TCCR0B = 3;
  TIMSK0 = 1;
  sei();
  setup();
  TCCR1B = 3;
  for (uint16_t most = 0;;) {  // the longest pass, in steps of 16 us
    const uint16_t before = TCNT1;
    loop();
    const uint16_t took = (uint16_t)((TCNT1 - before) / 4);
    if (took > most) { most = took; tell(250, most); }
  }
}

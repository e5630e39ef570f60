// Runs a program cycle by cycle on a simulated 8-bit chip, with what happens to it told by cycle on standard input, a line each:
// "cycle B byte 0" a byte whose stop bit ends at the chip's own port, "cycle L pin level" a pin, "cycle A channel mV" a voltage,
// "cycle E 0 0" the end. The receiver is modelled here, for the simulator's holds 64: two whole bytes and the one arriving,
// which the next one to arrive takes the place of (data sheets of such chips: data overrun; from memory).
// What the program tells of pins stands in three registers; edges of watched pins and bytes it says are told as they come.
#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
enum { TOLD = 0x3E, PIN = 0x4A, VALUE = 0x4B, DATA = 0xC6 };
static int unread;
static avr_io_read_t reads_port;
static uint8_t was_read(struct avr_t *avr, avr_io_addr_t addr, void *param) {
  if (unread) unread--;
  return reads_port(avr, addr, param);
}
static int is_large;
static void place_of(int pin, char *port, int *bit) {
  static const char LARGE[] = "ABCDFHKLJ";
  if (is_large) { *port = LARGE[pin / 8]; *bit = pin % 8; return; }
  *port = pin < 8 ? 'D' : pin < 14 ? 'B' : 'C';
  *bit = pin < 8 ? pin : pin < 14 ? pin - 8 : pin - 14;
}
static void told(struct avr_t *avr, avr_io_addr_t addr, uint8_t v, void *param) {
  (void)param;
  avr->data[addr] = v;
  if (v & 0x80) printf("%llu P %d %d\n", (unsigned long long)avr->cycle, avr->data[PIN], (v & 0x7F) << 8 | avr->data[VALUE]);
}
static void said(struct avr_irq_t *irq, uint32_t value, void *param) {
  (void)irq;
  printf("%llu S %d 0\n", (unsigned long long)((avr_t *)param)->cycle, (int)(value & 0xFF));
}
struct Watched { avr_t *avr; int pin; };
static void edge(struct avr_irq_t *irq, uint32_t value, void *param) {
  (void)irq;
  struct Watched *it = param;
  printf("%llu E %d %d\n", (unsigned long long)it->avr->cycle, it->pin, (int)value);
}
int main(int argc, char **argv) {
  elf_firmware_t program;
  memset(&program, 0, sizeof program);
  if (argc < 4 || elf_read_firmware(argv[1], &program)) return 2;
  is_large = atoi(argv[3]);
  avr_t *avr = avr_make_mcu_by_name(argv[2]);
  if (!avr) return 2;
  avr_init(avr);
  avr->frequency = 16000000;
  avr->vcc = avr->avcc = avr->aref = 5000;
  avr->log = LOG_NONE;
  avr_load_firmware(avr, &program);
  avr_register_io_write(avr, TOLD, told, NULL);
  uint32_t flags = 0;
  avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  avr_irq_t *port = avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), said, avr);
  for (int at = 4; at < argc; at++) {
    struct Watched *it = malloc(sizeof *it);
    char letter;
    int bit;
    *it = (struct Watched){avr, atoi(argv[at])};
    place_of(it->pin, &letter, &bit);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(letter), bit), edge, it);
  }
  unsigned long long cycle;
  char what;
  long a, b;
  uint8_t arriving = 0;
  unsigned driven[26] = {0}, levels[26] = {0};
  int is_whole = 0;
  reads_port = avr->io[AVR_DATA_TO_IO(DATA)].r.c;
  avr->io[AVR_DATA_TO_IO(DATA)].r.c = was_read;
  int has_next = scanf("%llu %c %ld %ld", &cycle, &what, &a, &b) == 4;
  while (has_next) {
    // A byte that is whole goes on to where two wait to be read, as soon as one of them was
    if (is_whole && unread < 2) {
      avr_raise_irq(port, arriving);
      unread++;
      is_whole = 0;
    }
    if (avr->cycle < cycle) {
      const int state = avr_run(avr);
      if (state == cpu_Done || state == cpu_Crashed) { printf("0 X 0 0\n"); return 1; }
      continue;
    }
    char letter;
    int bit;
    switch (what) {
      case 'B':
        if (is_whole) printf("%llu O %d 0\n", cycle, arriving);  // the one that waited for its place is overrun
        arriving = (uint8_t)a;
        is_whole = 1;
        break;
      case 'L':
        place_of((int)a, &letter, &bit);
        driven[letter - 'A'] |= 1u << bit;
        levels[letter - 'A'] = b ? levels[letter - 'A'] | 1u << bit : levels[letter - 'A'] & ~(1u << bit);
        // It holds the pin, whatever the program writes to others of its port
        avr_ioport_external_t held = {.name = (unsigned long)letter, .mask = driven[letter - 'A'], .value = levels[letter - 'A']};
        avr_ioctl(avr, AVR_IOCTL_IOPORT_SET_EXTERNAL(letter), &held);
        avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ(letter), bit), (uint32_t)b);
        break;
      case 'A': avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + (int)a), (uint32_t)b); break;
      default: return 0;
    }
    has_next = scanf("%llu %c %ld %ld", &cycle, &what, &a, &b) == 4;
  }
  return 0;
}

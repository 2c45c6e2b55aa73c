/* Stands in for a board framework with setup() and loop(): its calls record what the pins do, in time of its own. The program
   writes a value change dump to standard output; its argument is for how many milliseconds. */
#include <cstdint>
#include <cstdio>
#include <cstdlib>

#define HIGH 1
#define LOW 0
#define INPUT 0
#define OUTPUT 1
#define INPUT_PULLUP 2
#define INPUT_PULLDOWN 3
enum { A0 = 64, A1, A2, A3, A4, A5, A6, A7 };

static uint64_t now_ns = 1000;
static uint64_t end_ns;
static uint8_t modes[256];
static uint8_t values[256];
static char shown[256];

static void pass(uint64_t ns)
{
    now_ns += ns;
    if (end_ns != 0 && now_ns >= end_ns) {
        std::printf("#%llu\n", (unsigned long long)now_ns);
        std::exit(EXIT_SUCCESS);
    }
}

static void show(uint8_t pin)
{
    char level = modes[pin] == OUTPUT ? (values[pin] ? '1' : '0') : 'z';

    /* Nothing is known of a pin before it is driven for the first time, or pulled. */
    if (shown[pin] != level && (shown[pin] != 'x' || level != 'z' || modes[pin] != INPUT)) {
        shown[pin] = level;
        std::printf("#%llu\n%cp%d\n", (unsigned long long)now_ns, level, pin);
    }
    pass(500);
}

static inline void pinMode(uint8_t pin, uint8_t mode)
{
    modes[pin] = mode;
    values[pin] = mode == INPUT_PULLUP ? HIGH : values[pin];
    show(pin);
}

static inline void digitalWrite(uint8_t pin, uint8_t value)
{
    values[pin] = value;
    show(pin);
}

/* The level of a pin is asked for on standard output and read from standard input: 0 or 1. */
static inline int digitalRead(uint8_t pin)
{
    std::printf("#%llu\n$comment level p%d $end\n", (unsigned long long)now_ns, pin);
    std::fflush(stdout);
    int answer = std::getchar();
    pass(500);
    return answer == '1' ? HIGH : LOW;
}

static inline unsigned long micros()
{
    pass(1000);
    return (unsigned long)(uint32_t)(now_ns / 1000);
}

static inline unsigned long millis()
{
    pass(1000);
    return (unsigned long)(uint32_t)(now_ns / 1000000);
}

static inline void delayMicroseconds(unsigned us)
{
    pass(us * 1000ull);
}

void setup();
void loop();

int main(int count, char **arguments)
{
    end_ns = (count > 1 ? std::strtoull(arguments[1], NULL, 10) : 1000) * 1000000;
    std::printf("$timescale 1 ns $end\n");
    for (int pin = 0; pin < 128; pin++) {
        shown[pin] = 'x';
        if (pin < A0) {
            std::printf("$var wire 1 p%d %d $end\n$var wire 1 p%d GPIO%d $end\n$var wire 1 p%d GP%d $end\n", pin, pin, pin, pin, pin, pin);
        } else {
            std::printf("$var wire 1 p%d A%d $end\n", pin, pin - A0);
        }
    }
    std::printf("$enddefinitions $end\n#0\n");
    setup();
    for (;;) {
        loop();
    }
}

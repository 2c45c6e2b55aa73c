/* Runs a program for an AVR on the instruction-set simulator simavr, and writes what its pins do as a value change dump. It tells on
   standard output how many interrupts there were, and how many cycles the longest and all of them took.

   Where the trace is -, it goes to standard output, and the levels of pins are asked for: after each change of all that are let go, and
   every millisecond of those that never were driven too. A comment `level` has the pin, and 0 or 1 is the answer on standard input.

   With `every` at the end, an interrupt comes after each instruction of the main program that allows one, and the trace has a
   further line, which is high during interrupts.

   cc -o avr avr.c -lsimavr -lelf
   avr PROGRAM.elf MCU HERTZ MILLISECONDS TRACE.vcd [every] */
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include <simavr/avr_ioport.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_interrupts.h>

#define PORTS 12

static avr_t *avr;
static FILE *trace;
static uint8_t levels[PORTS];
static uint8_t directions[PORTS];
static char shown[PORTS][8];
static avr_irq_t *pins[PORTS];
static int is_asking;

static uint64_t now_ns(void)
{
    return (uint64_t)((__uint128_t)avr->cycle * 1000000000u / avr->frequency);
}

/* A controller that sleeps needs no time of ours. */
static void sleep_at_once(avr_t *of, avr_cycle_count_t cycles)
{
    (void)of;
    (void)cycles;
}

/* Asks for the levels of all pins that are let go, or also of those that never were driven. */
static void ask(int of_all)
{
    for (int port = 0; port < PORTS; port++) {
        avr_ioport_external_t outside = { .name = 'A' + port, .mask = 0, .value = 0 };

        for (int bit = 0; pins[port] != NULL && bit < 8; bit++) {
            if (shown[port][bit] == 'z' || (of_all && shown[port][bit] == 'x')) {
                unsigned level;

                printf("$comment level %c%c $end\n", 'A' + port, '0' + bit);
                fflush(stdout);
                level = getchar() == '1';
                outside.mask |= (unsigned)(1 << bit);
                outside.value |= level << bit;
                avr_raise_irq(pins[port] + bit, level);
            }
        }
        /* What is outside is stronger than the pull-up inside. */
        if (outside.mask != 0) {
            avr_ioctl(avr, AVR_IOCTL_IOPORT_SET_EXTERNAL('A' + port), &outside);
        }
    }
}

static void show(int port)
{
    int changes = 0;

    for (int bit = 0; bit < 8; bit++) {
        int is_driven = directions[port] >> bit & 1;
        char level = is_driven ? (char)('0' + (levels[port] >> bit & 1)) : 'z';

        /* Nothing is known of a pin before it is driven for the first time, or has its pull-up. */
        if (shown[port][bit] != level && (is_driven || shown[port][bit] != 'x' || (is_asking && levels[port] >> bit & 1))) {
            shown[port][bit] = level;
            fprintf(trace, "#%" PRIu64 "\n%c%c%c\n", now_ns(), level, 'A' + port, '0' + bit);
            changes++;
        }
    }
    if (is_asking && changes > 0) {
        ask(0);
    }
}

static void on_level(avr_irq_t *irq, uint32_t value, void *port)
{
    (void)irq;
    levels[(intptr_t)port] = (uint8_t)value;
    show((int)(intptr_t)port);
}

static void on_direction(avr_irq_t *irq, uint32_t value, void *port)
{
    (void)irq;
    directions[(intptr_t)port] = (uint8_t)value;
    show((int)(intptr_t)port);
}

/* Asks for the interrupts that are enabled, one after the other. */
static void interrupt_next(void)
{
    static int nth;

    for (int tries = 0; tries < avr->interrupts.vector_count && !avr_has_pending_interrupts(avr); tries++) {
        avr_int_vector_t *vector = avr->interrupts.vector[nth];

        nth = (nth + 1) % avr->interrupts.vector_count;
        if (avr_regbit_get(avr, vector->enable)) {
            avr_raise_interrupt(avr, vector);
        }
    }
}

int main(int count, char **arguments)
{
    elf_firmware_t program;
    uint64_t end, next_look = 0, began = 0, worst = 0, all = 0, calls = 0;
    uint8_t was_on = 0;
    int is_every = count == 7 && strcmp(arguments[6], "every") == 0;

    is_asking = count == 6 && strcmp(arguments[5], "-") == 0;
    if ((count != 6 && !is_every) || (trace = is_asking ? stdout : fopen(arguments[5], "w")) == NULL) {
        fprintf(stderr, "usage: avr PROGRAM.elf MCU HERTZ MILLISECONDS TRACE.vcd [every]\n");
        return 2;
    }
    memset(&program, 0, sizeof program);
    if (elf_read_firmware(arguments[1], &program) != 0 || (avr = avr_make_mcu_by_name(arguments[2])) == NULL) {
        fprintf(stderr, "cannot run %s on %s\n", arguments[1], arguments[2]);
        return 2;
    }
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = (uint32_t)strtoul(arguments[3], NULL, 10);
    avr_load_firmware(avr, &program);
    avr->frequency = (uint32_t)strtoul(arguments[3], NULL, 10);
    avr->sleep = sleep_at_once;
    end = avr->frequency / 1000u * strtoull(arguments[4], NULL, 10);

    fprintf(trace, "$timescale 1 ns $end\n");
    for (int port = 0; port < PORTS; port++) {
        avr_irq_t *level = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('A' + port), IOPORT_IRQ_REG_PORT);
        avr_irq_t *direction = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('A' + port), IOPORT_IRQ_DIRECTION_ALL);

        if (level == NULL || direction == NULL) {
            continue;
        }
        pins[port] = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('A' + port), IOPORT_IRQ_PIN0);
        avr_irq_register_notify(level, on_level, (void *)(intptr_t)port);
        avr_irq_register_notify(direction, on_direction, (void *)(intptr_t)port);
        for (int bit = 0; bit < 8; bit++) {
            shown[port][bit] = 'x';
            fprintf(trace, "$var wire 1 %c%c P%c%d $end\n", 'A' + port, '0' + bit, 'A' + port, bit);
        }
    }
    if (is_every) {
        fprintf(trace, "$var wire 1 ! interrupt $end\n");
    }
    fprintf(trace, "$enddefinitions $end\n#0\n");

    while (avr->cycle < end) {
        int state = avr_run(avr);

        /* A push button moves while nothing else does. */
        if (is_asking && avr->cycle >= next_look) {
            next_look = avr->cycle + avr->frequency / 1000;
            printf("#%" PRIu64 "\n", now_ns());
            ask(1);
        }

        uint8_t is_on = avr->interrupts.running_ptr != 0;

        if (is_every && is_on != was_on) {
            fprintf(trace, "#%" PRIu64 "\n%d!\n", now_ns(), is_on);
        }
        if (is_every && !is_on) {
            interrupt_next();
        }

        if (state == cpu_Crashed || state == cpu_Done) {
            fprintf(stderr, "the program ended at %" PRIu64 " ns\n", now_ns());
            return 1;
        }
        if (is_on && !was_on) {
            began = avr->cycle;
        } else if (!is_on && was_on) {
            /* The simulator does not count the response: four cycles, or five where addresses have three bytes. */
            uint64_t took = avr->cycle - began + (avr->address_size == 3 ? 5 : 4);

            worst = took > worst ? took : worst;
            all += took;
            calls++;
        }
        was_on = is_on;
    }
    fprintf(trace, "#%" PRIu64 "\n", now_ns());
    if (is_asking) {
        return 0;
    }
    printf("\ninterrupts %" PRIu64 " longest %" PRIu64 " all %" PRIu64 "\n", calls, worst, all);
    return fclose(trace) == 0 ? 0 : 1;
}

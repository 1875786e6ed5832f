/*
 * The example of the part with registers of 8 bits, initialised as one would write it by hand for AVR, with the same accesses in the
 * same order: what the size of generated code is measured against, see bench/sizes.ts.
 */
#include <stdbool.h>
#include <stdint.h>

struct port {
    uint8_t volatile DR;
    uint8_t volatile LT;
    uint8_t volatile LV;
    uint8_t volatile FL;
    uint8_t volatile CA;
    uint8_t volatile CB;
    uint8_t volatile QT;
    uint8_t volatile CM;
};

struct watch {
    uint8_t volatile EN;
    uint8_t volatile FLAG;
    uint8_t volatile ACK;
};

#define PK (*(struct port *)0x20)
#define PL (*(struct port *)0x28)
#define WATCH (*(struct watch *)0x58)
#define BIT(n) (1u << (n))

enum { FAN = 0, RAIN = 1, BUS_SCL = 2, LEAF = 1 };

static bool done;

void board_init(void)
{
    done = false;
    PK.LT = (uint8_t)((PK.LT & ~BIT(BUS_SCL)) | BIT(FAN) | BIT(RAIN));
    PL.LT = (uint8_t)(PL.LT & ~BIT(LEAF));
    PK.QT = (uint8_t)(PK.QT & ~(BIT(FAN) | BIT(RAIN) | BIT(BUS_SCL)));
    PL.QT = (uint8_t)(PL.QT | BIT(LEAF));
    PK.CA = (uint8_t)((PK.CA & ~(BIT(FAN) | BIT(RAIN))) | BIT(BUS_SCL));
    PK.CB = (uint8_t)(PK.CB & ~(BIT(FAN) | BIT(RAIN) | BIT(BUS_SCL)));
    PL.CA = (uint8_t)(PL.CA & ~BIT(LEAF));
    PL.CB = (uint8_t)(PL.CB & ~BIT(LEAF));
    PK.DR = (uint8_t)((PK.DR & ~(BIT(RAIN) | BIT(BUS_SCL))) | BIT(FAN));
    PL.DR = (uint8_t)(PL.DR & ~BIT(LEAF));
    PK.CM = (uint8_t)((PK.CM & ~(BIT(FAN) | BIT(BUS_SCL))) | BIT(RAIN));
    PL.CM = (uint8_t)(PL.CM & ~BIT(LEAF));
    WATCH.ACK = 3;
    WATCH.EN = (uint8_t)(WATCH.EN | BIT(0));
    done = true;
}

bool board_init_done(void)
{
    return done;
}

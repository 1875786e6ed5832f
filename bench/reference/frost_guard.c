/*
 * The demo plan's initialisation as one would write it by hand, with the same accesses in the same order: what the size of generated
 * code is measured against, see bench/sizes.ts.
 */
#include <stdbool.h>
#include <stdint.h>

struct gate {
    uint32_t volatile ON;
    uint32_t volatile READY;
};

struct port {
    uint32_t volatile USE;
    uint32_t volatile PULL;
    uint16_t volatile BUF;
    uint16_t volatile PLAIN;
    uint32_t volatile FORCE;
    uint32_t volatile FN0;
    uint32_t volatile FN1;
    uint32_t volatile FN2;
    uint32_t volatile FN3;
    uint32_t reserved_20;
    uint16_t volatile OUT;
    uint16_t reserved_26;
    uint16_t volatile OUTS;
    uint16_t volatile OUTC;
    uint32_t volatile IN;
    uint32_t reserved_30[3];
    uint32_t volatile SEAL;
};

#define GATE ((struct gate *)0x40007018u)
#define PA ((struct port *)0x50020000u)
#define PB ((struct port *)0x50020800u)
#define PC ((struct port *)0x50021000u)
#define PD ((struct port *)0x50021800u)
#define PE ((struct port *)0x50022000u)
#define PF ((struct port *)0x50022800u)

static bool frost_guard_done = false;

void frost_guard_init(void);
bool frost_guard_init_done(void);

void frost_guard_init(void)
{
    frost_guard_done = false;
    GATE->ON |= 0x000000B7u;
    for (uint32_t tries = 0u; (GATE->READY & 0x000000B7u) != 0x000000B7u; tries++) {
        if (tries == 16u) { return; }
    }
    PA->SEAL = 0x00C40C40u;
    PB->SEAL = 0x00C40C40u;
    PC->SEAL = 0x00C40C40u;
    PD->SEAL = 0x00C40C40u;
    PE->SEAL = 0x00C40C40u;
    PF->SEAL = 0x00C40C40u;
    PA->OUTS = 0x0062u;
    PB->OUTS = 0x0080u;
    PB->OUTC = 0x0040u;
    PC->OUTS = 0x0008u;
    PD->OUTS = 0x0040u;
    PD->OUTC = 0x0004u;
    PE->OUTS = 0x7000u;
    PE->OUTC = 0x0002u;
    PA->PULL = (PA->PULL & 0xFF0043D2u) | 0x00004012u;
    PB->PULL &= 0xFFFF0030u;
    PC->PULL = (PC->PULL & 0xFFFFFF15u) | 0x00000015u;
    PD->PULL = (PD->PULL & 0x00F0004Fu) | 0x00000040u;
    PE->PULL = (PE->PULL & 0x40FFFC20u) | 0x40000020u;
    PF->PULL = (PF->PULL & 0xFDC000FFu) | 0x01000000u;
    PA->BUF &= 0xF018u;
    PB->BUF &= 0xFF04u;
    PC->BUF = (uint16_t)((PC->BUF & 0xFFF5u) | 0x0005u);
    PD->BUF &= 0x0C03u;
    PE->BUF &= 0x0FE0u;
    PF->BUF &= 0xE80Fu;
    PA->PLAIN &= 0xF018u;
    PB->PLAIN &= 0xFF04u;
    PC->PLAIN &= 0xFFF0u;
    PD->PLAIN &= 0x0C03u;
    PE->PLAIN &= 0x0FE0u;
    PF->PLAIN &= 0xE80Fu;
    PA->FORCE = (PA->FORCE & 0xFF002BC4u) | 0x00002804u;
    PB->FORCE = (PB->FORCE & 0xFFFF4030u) | 0x00004000u;
    PC->FORCE &= 0xFFFFFF00u;
    PD->FORCE &= 0x00F0000Fu;
    PE->FORCE = (PE->FORCE & 0x15FFFC00u) | 0x15000000u;
    PF->FORCE = (PF->FORCE & 0xFCCAAAFFu) | 0x000AAA00u;
    PA->FN0 = (PA->FN0 & 0xFFFFFFEAu) | 0x0000000Au;
    PC->FN0 = (PC->FN0 & 0xFFE9E5E9u) | 0x00090509u;
    PD->FN0 = (PD->FN0 & 0xE2FFFFFFu) | 0x02000000u;
    PD->FN1 = (PD->FN1 & 0xE6FFE2E2u) | 0x06000202u;
    PD->FN2 = (PD->FN2 & 0xFFFFE6E6u) | 0x00000606u;
    PD->FN3 = (PD->FN3 & 0xE1E1E1E1u) | 0x01010101u;
    PE->FN0 &= 0xE0FFFFFFu;
    PE->FN1 &= 0xFFFFFFE0u;
    PF->FN1 = (PF->FN1 & 0xECECECECu) | 0x0C0C0C0Cu;
    PF->FN2 = (PF->FN2 & 0xFFE1ECECu) | 0x00010C0Cu;
    PA->USE = (PA->USE & 0xFFFF17C6u) | 0x00FF1406u;
    PB->USE = (PB->USE & 0xFFFF5FFFu) | 0x00005FCFu;
    PC->USE = (PC->USE & 0xFFFFFF6Au) | 0x0000006Au;
    PD->USE = (PD->USE & 0xAAFA9A9Fu) | 0xAA0A9A90u;
    PE->USE = (PE->USE & 0x15FFFE84u) | 0x15000284u;
    PF->USE = (PF->USE & 0xFCEAAAFFu) | 0x002AAA00u;
    PA->SEAL = 0x00000000u;
    PB->SEAL = 0x00000000u;
    PC->SEAL = 0x00000000u;
    PD->SEAL = 0x00000000u;
    PE->SEAL = 0x00000000u;
    PF->SEAL = 0x00000000u;
    frost_guard_done = true;
}

bool frost_guard_init_done(void)
{
    return frost_guard_done;
}

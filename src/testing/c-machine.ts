import type { Device } from '@/core/recipe/device';
import type { Register } from '@/core/recipe/registers';

/**
 * A register array in C with the part's behaviour: set and clear registers, keys, gates that close a port, delayed
 * followers. Written in C and apart from the machine of the core, so that generated code meets a second opinion.
 */
export function cMachine(device: Device, prefix: string): string {
  const index = (register: Register | undefined): number => (register ? register.index : -1);
  const rows = device.registers.all.map((register) => {
    const key = register.access.kind === 'key' ? (register.access.keys[0] ?? 0) : 0;
    const delay = register.follows?.kind === 'register' ? register.follows.afterCycles : 0;
    return `{ ${register.address}u, ${register.bits}, ${register.reset}u, K_${register.access.kind.replace('-', '_')}, ${index(register.target)}, ${index(register.guard?.register)}, ${register.guard?.bit ?? 0}, ${index(register.lockedBy)}, ${key}u, ${delay} }`;
  });
  return `
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
enum kind { K_read_write, K_read, K_write, K_set, K_clear, K_toggle, K_masked, K_key };
static const struct { uint32_t address; int bits; uint32_t reset; enum kind kind; int target, guard, guard_bit, locked_by; uint32_t key; int delay; }
R[] = {
${rows.join(',\n')}
};
enum { N = sizeof R / sizeof R[0] };
static uint32_t value[N]; static int open_[N]; static long now, accesses, lost; static struct { long at; int reg; uint32_t v; } due[64]; static int dues;
static void reset_all(void) { for (int i = 0; i < N; i++) { value[i] = R[i].reset; open_[i] = 0; } }
static void tick(void) { now++; for (int i = 0; i < dues; i++) if (due[i].at == now) value[due[i].reg] = due[i].v; }
static int at(uint32_t address, int bits) {
  for (int i = 0; i < N; i++) if (R[i].address == address && R[i].bits == bits) return i;
  printf("no register of %d bits at %x\\n", bits, address); exit(3);
}
static int shut(int i) { return R[i].guard >= 0 && !(value[R[i].guard] >> R[i].guard_bit & 1u); }
static void store(int i, uint32_t v) {
  value[i] = v;
  for (int f = 0; f < N; f++) if (R[f].kind == K_read && R[f].target == i) { due[dues].at = now + R[f].delay; due[dues].reg = f; due[dues++].v = v; }
}
static uint32_t reg_read(uint32_t address, int bits) {
  int i = at(address, bits); tick(); accesses++;
  if (shut(i) || R[i].kind == K_key || R[i].kind == K_write) return 0;
  return value[R[i].kind == K_set || R[i].kind == K_clear || R[i].kind == K_toggle ? R[i].target : i];
}
static void reg_write(uint32_t address, int bits, uint32_t v) {
  int i = at(address, bits); tick(); accesses++;
  if (shut(i) || R[i].kind == K_read) { lost++; return; }
  if (R[i].kind == K_key) { open_[i] = v == R[i].key; return; }
  int t = R[i].kind == K_set || R[i].kind == K_clear || R[i].kind == K_toggle ? R[i].target : i;
  if (R[t].locked_by >= 0 && !open_[R[t].locked_by]) { lost++; return; }
  switch (R[i].kind) {
    case K_set: store(t, value[t] | v); break;
    case K_clear: store(t, value[t] & ~v); break;
    case K_toggle: store(t, value[t] ^ v); break;
    default: store(t, v);
  }
}
${[8, 16, 32]
  .map(
    (bits) => `#define ${prefix}_READ${bits}(a) ((uint${bits}_t)reg_read((a), ${bits}))
#define ${prefix}_WRITE${bits}(a, v) reg_write((a), ${bits}, (v))`,
  )
  .join('\n')}
`;
}

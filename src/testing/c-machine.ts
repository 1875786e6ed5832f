import type { Device } from '@/core/recipe/device';
import type { Guard, Register } from '@/core/recipe/registers';

/**
 * A register array in C with the part's behaviour: set, clear, toggle and masked registers, keys, commit bits, reserved
 * bits, gates that close a port, delayed followers. Written in C and apart from the machine of the core, so that
 * generated code meets a second opinion.
 */
export function cMachine(device: Device, prefix: string): string {
  const index = (register: Register | undefined): number => (register ? register.index : -1);
  const guard = (one: Guard | undefined): string =>
    one
      ? `{ ${index(one.register)}, ${one.bit}, ${one.openAt}, ${one.stops === 'all' ? 1 : 0} }`
      : '{ -1, 0, 0, 0 }';
  const rows = device.registers.all.map((register) => {
    const { access, guards, always, commit } = register;
    if (guards.length > 3) throw new Error('the C machine knows three guards a register');
    const keys = access.kind === 'key' ? access.keys : [];
    if (keys.length > 2) throw new Error('the C machine knows two keys a register');
    const delay = register.follows?.kind === 'register' ? register.follows.afterCycles : 0;
    const guardRows = [0, 1, 2].map((position) => guard(guards[position])).join(', ');
    return `{ ${register.address}u, ${register.bits}, ${register.reset}u, K_${access.kind.replace('-', '_')}, ${register.follows ? 1 : 0}, ${index(register.target)}, ${index(register.from)}, { ${guardRows} }, ${index(register.locks[0])}, { ${keys[0] ?? 0}u, ${keys[1] ?? 0}u }, ${keys.length}, ${access.kind === 'key' && access.once ? 1 : 0}, ${delay}, ${register.readOnlyMask}u, ${always?.mask ?? 0}u, ${always?.value ?? 0}u, ${index(commit?.register)}, ${commit?.bitsEach ?? 1} }`;
  });
  return `
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
enum kind { K_read_write, K_read, K_write, K_set, K_clear, K_toggle, K_masked, K_internal, K_act, K_key };
struct guard { int reg, bit, open_at, all; };
static const struct {
  uint32_t address; int bits; uint32_t reset; enum kind kind; int follower, target, from; struct guard guard[3];
  int locked_by; uint32_t key[2]; int keys, once, delay; uint32_t fixed, always_mask, always_value; int commit, each;
} R[] = {
${rows.join(',\n')}
};
enum { N = sizeof R / sizeof R[0] };
static uint32_t value[N]; static int seen[N]; static long now, accesses, lost; static struct { long at; int reg; uint32_t v; } due[4096]; static int dues;
static void reset_all(void) { for (int i = 0; i < N; i++) { value[i] = R[i].reset; seen[i] = 0; } }
static void store(int i, uint32_t v);
static void tick(void) { now++; for (int i = 0; i < dues; i++) if (due[i].at == now) store(due[i].reg, due[i].v); }
static int at(uint32_t address, int bits) {
  for (int i = 0; i < N; i++) if (R[i].address == address && R[i].bits == bits && R[i].kind != K_internal) return i;
  printf("no register of %d bits at %x\\n", bits, address); exit(3);
}
static int shut(int i, int writing) {
  for (int g = 0; g < 3; g++) {
    const struct guard *one = &R[i].guard[g];
    if (one->reg >= 0 && (writing || one->all) && (int)(value[one->reg] >> one->bit & 1u) != one->open_at) return 1;
  }
  return 0;
}
static uint32_t takes(int i) {
  uint32_t mask = 0;
  for (int b = 0; b < R[i].bits; b++) if (R[i].commit < 0 || (value[R[i].commit] >> (b / R[i].each) & 1u)) mask |= UINT32_C(1) << b;
  return mask & ~R[i].fixed;
}
static void store(int i, uint32_t v) {
  uint32_t mask = takes(i);
  value[i] = (value[i] & ~mask) | (v & mask);
  for (int f = 0; f < N; f++) if (R[f].follower && R[f].target == i) {
    if (R[f].delay == 0) store(f, value[i]);
    else { due[dues].at = now + R[f].delay; due[dues].reg = f; due[dues++].v = value[i]; }
  }
}
#define ${prefix}_WAIT(cycles) do { for (uint32_t k = 0; k < (cycles); k++) tick(); } while (0)
static int redirects(int i) { return R[i].kind == K_set || R[i].kind == K_clear || R[i].kind == K_toggle || R[i].kind == K_act; }
static uint32_t reg_read(uint32_t address, int bits) {
  int i = at(address, bits); tick(); accesses++;
  if (shut(i, 0) || R[i].kind == K_key || R[i].kind == K_write || R[i].kind == K_act) return 0;
  return value[redirects(i) ? R[i].target : i];
}
static int locked(int i) { return R[i].locked_by >= 0 && seen[R[i].locked_by] != R[R[i].locked_by].keys; }
static void reg_write(uint32_t address, int bits, uint32_t v) {
  int i = at(address, bits); tick(); accesses++;
  if (shut(i, 1) || R[i].kind == K_read) { lost++; return; }
  if (R[i].kind == K_key) {
    seen[i] = seen[i] < R[i].keys && R[i].key[seen[i]] == v ? seen[i] + 1 : R[i].key[0] == v;
    return;
  }
  int t = redirects(i) ? R[i].target : i;
  if (locked(t) || locked(i)) { lost++; return; }
  if ((v & R[i].always_mask) != R[i].always_value) { lost++; return; }
  uint32_t low = R[i].bits == 32 ? 0xFFFFu : 0xFFu, half = v >> (R[i].bits / 2) & low;
  switch (R[i].kind) {
    case K_set: store(t, value[t] | v); break;
    case K_clear: store(t, value[t] & ~v); break;
    case K_toggle: store(t, value[t] ^ v); break;
    case K_act: store(t, (value[t] & ~v) | (value[R[i].from] & v)); break;
    case K_masked: store(t, (value[t] & ~half) | (v & half)); break;
    default: store(t, v);
  }
  int key = R[i].locked_by >= 0 ? R[i].locked_by : R[t].locked_by;
  if (key >= 0 && R[key].once) seen[key] = 0;
}
${[8, 16, 32]
  .map(
    (bits) => `#define ${prefix}_READ${bits}(a) ((uint${bits}_t)reg_read((a), ${bits}))
#define ${prefix}_WRITE${bits}(a, v) reg_write((a), ${bits}, (v))`,
  )
  .join('\n')}
`;
}

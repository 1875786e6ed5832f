import { armTarget, avrTarget, riscvTarget } from './code/asm/target';
import { cTableTarget, cTarget } from './code/c/target';
import { cppTarget } from './code/cpp/target';
import { rustTarget } from './code/rust/target';
import type { Target } from './code/types';

/** The languages code can be generated in. */
export const TARGETS: readonly Target[] = [
  cTarget,
  cTableTarget,
  cppTarget,
  rustTarget,
  armTarget,
  riscvTarget,
  avrTarget,
];

export const targetById = (id: string): Target | undefined => TARGETS.find((target) => target.id === id);

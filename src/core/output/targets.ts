import { armTarget, avrTarget, riscvTarget } from './code/asm/target';
import { cTableTarget, cTarget } from './code/c/target';
import { cppTarget } from './code/cpp/target';
import { devicetreeTarget } from './code/devicetree/target';
import { rustTarget } from './code/rust/target';
import type { Target } from './code/types';
import { csvTarget, markdownTarget, svdTarget } from './documents/targets';

/** The languages code can be generated in. */
export const TARGETS: readonly Target[] = [
  cTarget,
  cTableTarget,
  cppTarget,
  rustTarget,
  armTarget,
  riscvTarget,
  avrTarget,
  devicetreeTarget,
  markdownTarget,
  csvTarget,
  svdTarget,
];

export const targetById = (id: string): Target | undefined => TARGETS.find((target) => target.id === id);

import { cTarget } from './code/c/target';
import type { Target } from './code/types';

/** The languages code can be generated in. */
export const TARGETS: readonly Target[] = [cTarget];

export const targetById = (id: string): Target | undefined => TARGETS.find((target) => target.id === id);

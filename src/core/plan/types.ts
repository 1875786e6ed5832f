import type { PadId, SignalId } from '../device/types';
import type { CodeStyle } from '../recipe/operations';

export const PLAN_FORMAT = 'mavrek-plan/1';

export type NetId = string & { readonly brand?: 'NetId' };
export type CircuitId = string & { readonly brand?: 'CircuitId' };

/** What a net is to the firmware. A peripheral signal may leave the instance open: "any UART · TX". */
export type Role =
  | { kind: 'input' }
  | { kind: 'output' }
  | { kind: 'analog' }
  | { kind: 'signal'; signal: SignalId }
  | { kind: 'open-signal'; peripheral: string; line: string };

export interface Placement {
  pad: PadId;
  /** The placer, and ranked moves, leave a held net where it is. */
  held: boolean;
  /** For roles that leave the signal open: which of the pad's signals is meant. */
  signal?: SignalId;
}

/** Settings in the terms of the circuit; what is absent follows the role's and the part's defaults. */
export interface NetSettings {
  /** The level at which the far end is active. */
  active?: 'high' | 'low';
  /** How an output starts. */
  start?: 'inactive' | 'asserted';
  buffer?: string;
  pull?: string;
  drive?: string;
  slew?: string;
  threshold?: string;
  /** What wakes or interrupts the firmware, in the part's words: an edge or a level. */
  trigger?: string;
}
export type NetSettingKey = keyof NetSettings;

export interface Net {
  id: NetId;
  name: string;
  circuit: CircuitId;
  role: Role;
  placement: Placement | null;
  settings: NetSettings;
  note?: string;
}

export interface Circuit {
  id: CircuitId;
  name: string;
}

export interface CodeOptions {
  /** Prefix of all generated names; empty means: the plan's name as an identifier. */
  prefix: string;
  style: CodeStyle;
}

/** `mavrek-plan/1`. Immutable; changed only by edits (see `edit.ts`). */
export interface Plan {
  format: typeof PLAN_FORMAT;
  name: string;
  revision: string;
  device: string;
  package: string;
  /** Fingerprint of the device description the plan was made against. */
  deviceFingerprint: string;
  circuits: Circuit[];
  nets: Net[];
  code: CodeOptions;
}

export const emptyPlan = (name: string, device: string, pkg: string, deviceFingerprint: string): Plan => ({
  format: PLAN_FORMAT,
  name,
  revision: 'A',
  device,
  package: pkg,
  deviceFingerprint,
  circuits: [],
  nets: [],
  code: { prefix: '', style: 'preserving' },
});

/** "any UART · TX", "UART2.TX", "input": a role in a few words. */
export function roleText(role: Role): string {
  switch (role.kind) {
    case 'input':
    case 'output':
    case 'analog':
      return role.kind;
    case 'signal':
      return role.signal;
    case 'open-signal':
      return `any ${role.peripheral} · ${role.line}`;
  }
}

import type { Derived } from '../../derive/derive';
import { heldName, type Operation } from '../../derive/machine/operations';
import { notCovered } from '../../derive/simulate/not-covered';
import type { ProofFailure } from '../../derive/simulate/proof';
import { heldText } from '../../description/language/held-value';
import type { Register } from '../../device/registers/types';
import type { Placing } from '../../place/model/answer';
import type { Plan } from '../../plan/model/types';
import { identifyFiles } from '../code/identify';
import type { GeneratedFile } from '../code/types';

/** The stable JSON shapes of the command line and the HTTP interface. Numbers that are addresses or values are "0x…". */

const hex = (value: number, bits = 32): string =>
  `0x${(value >>> 0)
    .toString(16)
    .toUpperCase()
    .padStart(bits / 4, '0')}`;

export function checkReport(derived: Derived) {
  const { plan, device, pkg, fingerprint, counts, findings } = derived;
  return {
    plan: {
      name: plan.name,
      revision: plan.revision,
      device: device.description.id,
      package: pkg.id,
      fingerprint,
    },
    counts,
    findings: findings.map(({ rule, severity, message, pads, pins, nets, about, remedies, waived }) => ({
      rule,
      severity,
      message: plainMessage(message),
      pads,
      pins,
      nets: nets.map((id) => derived.byNet.get(id)?.net.name ?? id),
      about: about ?? null,
      remedies: remedies.map(({ label, edit }) => ({ label, edit })),
      waived: waived !== undefined,
      waiver: waived ? { reason: waived.reason, author: waived.author, date: waived.date } : null,
    })),
  };
}

/** A message without the marks around names. */
export const plainMessage = (message: string): string => message.replaceAll('`', '');

/** An address, which internal state has not. */
const addressOf = ({ access, address }: Register): string =>
  access.kind === 'internal' ? 'none' : hex(address);

export function registersReport(derived: Derived) {
  return {
    registers: derived.lowered.image.map(({ register, reset, planned, mask, owners }) => ({
      name: register.name,
      address: addressOf(register),
      bits: register.bits,
      reset: hex(reset, register.bits),
      planned: hex(planned, register.bits),
      mask: hex(mask, register.bits),
      fields: owners.map(({ low, bits, pad, field }) => ({ low, bits, pad, field })),
    })),
    operations: derived.lowered.operations.map(operationReport),
  };
}

function operationReport(operation: Operation) {
  const { stage } = operation;
  switch (operation.kind) {
    case 'wait':
      return { stage, kind: operation.kind, cycles: operation.cycles };
    case 'write':
      return {
        stage,
        kind: operation.kind,
        ...registerHead(operation.register),
        value: hexOf(operation, operation.value),
      };
    case 'update':
      return {
        stage,
        kind: operation.kind,
        ...registerHead(operation.register),
        clear: hexOf(operation, operation.clear),
        set: hexOf(operation, operation.set),
      };
    case 'flip':
      return {
        stage,
        kind: operation.kind,
        ...registerHead(operation.register),
        flip: hexOf(operation, operation.mask),
      };
    case 'read':
      return {
        stage,
        kind: operation.kind,
        ...registerHead(operation.register),
        holds: operation.holds === undefined ? '' : heldName(operation.holds),
      };
    case 'write held':
      return {
        stage,
        kind: operation.kind,
        ...registerHead(operation.register),
        held: heldText(operation.value, heldName),
      };
    case 'await':
      return {
        stage,
        kind: operation.kind,
        ...registerHead(operation.register),
        mask: hexOf(operation, operation.mask),
        value: hexOf(operation, operation.value),
        cycles: operation.cycles,
      };
  }
}

const hexOf = (operation: { register: Register }, value: number): string =>
  hex(value, operation.register.bits);

const registerHead = (register: Register) => ({
  register: register.name,
  address: addressOf(register),
  bits: register.bits,
});

export function generateReport(derived: Derived, files: readonly GeneratedFile[]) {
  const { pins, proven, failures } = derived.proof;
  return {
    files: identifyFiles(files),
    proof: {
      pins,
      proven,
      from: derived.proof.start,
      failures: failures.map((one) => failureReport(one, files)),
      notCovered: notCovered(derived.device, derived.planned, derived.lowered, derived.accessors.absent),
    },
    accessors: {
      total: derived.accessors.list.length,
      proven: derived.accessors.list.filter((one) => one.fault === undefined).length,
    },
  };
}

/** A failure with its operation counted from 1, as messages count, and the register as an address and a mask. */
function failureReport(
  { pad, kind, message, operation, stage, register, mask }: ProofFailure,
  files: readonly GeneratedFile[],
) {
  const holder = files.find((one) => one.operations !== undefined);
  const line = operation === undefined ? undefined : holder?.operations?.[operation];
  return {
    pad,
    kind,
    message,
    operation: operation === undefined || operation < 0 ? null : operation + 1,
    stage: stage ?? null,
    file: line === undefined ? null : (holder?.path ?? null),
    line: line ?? null,
    ...(register ? registerHead(register) : { register: null, address: null, bits: null }),
    mask: register && mask !== undefined ? hex(mask, register.bits) : null,
  };
}

/** `placements` and `moves` by net name; nets that share a name are told apart by their ids. */
export function placeReport(plan: Plan, placing: Placing) {
  const names = new Map<string, number>();
  for (const net of plan.nets) names.set(net.name, (names.get(net.name) ?? 0) + 1);
  const nameOf = (id: string): string => {
    const name = plan.nets.find((net) => net.id === id)?.name ?? id;
    return names.get(name) === 1 ? name : `${name} (${id})`;
  };
  const { status, optimalFor, objective, bound, terms, conflict } = placing;
  return {
    status,
    optimalFor: optimalFor ?? null,
    objective: objective ?? null,
    bound: bound ?? null,
    terms: terms ?? {},
    placements: Object.fromEntries(Object.entries(placing.placements).map(([id, pad]) => [nameOf(id), pad])),
    moves: placing.moves.map(({ net, to }) => ({
      net: nameOf(net.id),
      from: net.placement?.pad ?? null,
      to: to.pad,
      signal: to.signal ?? null,
    })),
    conflict: (conflict?.requirements ?? []).map(({ kind, words, nets }) => ({
      kind,
      message: plainMessage(words),
      nets: nets.map((net) => nameOf(net.id)),
    })),
    /** No smaller set of demands contradicts itself; false where that was not shown, null without a conflict. */
    smallest: conflict?.smallest ?? null,
    message: conflict ? plainMessage(conflict.message) : null,
    suggestions: (conflict?.suggestions ?? []).map(({ label, edit }) => ({
      label: plainMessage(label),
      edit,
    })),
  };
}
export type PlaceReport = ReturnType<typeof placeReport>;

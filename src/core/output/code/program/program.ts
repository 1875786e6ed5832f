import { listed } from '../../../base/text/listed';
import type { Accessor } from '../../../derive/accessors/accessors';
import { interrupts } from '../../../derive/accessors/accessors';
import type { Derived } from '../../../derive/derive';
import { nearestRate } from '../../../derive/electrical/rates';
import type { Operation, PadShare } from '../../../derive/machine/operations';
import { latchLevel, type ResolvedNet } from '../../../derive/resolve/resolve';
import type { Routine } from '../../../derive/routines/routines';
import { splitSignal } from '../../../description/types';
import { isSet } from '../../../device/available';
import { interruptLine } from '../../../device/interrupt-lines';
import type { Register } from '../../../device/registers/types';
import { formatOf, wantedRate } from '../../../plan/model/format';
import { roleText } from '../../../plan/model/types';
import { functionOf } from './accessor';
import { naming, numberHolds, statementsOf, touched } from './operation';
import type {
  FactKind,
  InterruptLine,
  InterruptNet,
  Program,
  ProgramFact,
  ProgramRoutine,
  ProgramSection,
  ProgramStep,
  Statement,
  Width,
} from './types';

const known = new WeakMap<Derived, Program>();

/** What the code of a plan does, the same for every language. */
export function programOf(derived: Derived): Program {
  let program = known.get(derived);
  if (!program) {
    program = work(derived);
    known.set(derived, program);
  }
  return program;
}

function work(derived: Derived): Program {
  const { shadows } = derived.accessors;
  const isCopied = (register: Register): boolean => shadows.has(register);
  const { operations, parts } = derived.lowered;
  const steps = stepsOf(derived, numberHolds(operations), isCopied, parts ? startsOf(parts) : new Set());
  const routines = routinesOf(derived, steps, isCopied);
  const calls = parts && routines.filter(({ routine }) => routine.kind === 'circuit');
  const sections = sectionsOf(derived, isCopied);
  const functions = sections.flatMap((one) => one.functions);
  const every = [...steps, ...routines.flatMap((one) => one.steps)];
  const registers = new Set<Register>();
  for (const { statements } of [...every, ...functions]) {
    for (const register of touched(statements)) registers.add(register);
  }
  return {
    registers: [...registers].sort((a, b) => a.address - b.address),
    copies: [...shadows.keys()].map((register) => ({ register, reset: register.reset })),
    steps,
    routines,
    calls,
    hooks: [...new Set(steps.flatMap((one) => [one.begins, one.ends]))].flatMap((one) => one ?? []),
    sections,
    interrupts: interruptLines(derived, sections),
    torn: functions.some(({ statements }) => statements.some((one) => one.kind === 'enter')),
    waits: {
      initialisation: every.some(({ statements }) => waits(statements)),
      accessors: functions.some(({ statements }) => waits(statements)),
    },
    widths: [...new Set([...registers].map((one): Width => one.bits))].sort((a, b) => a - b),
  };
}

/** Positions at which another circuit begins. */
function startsOf(parts: readonly { count: number }[]): Set<number> {
  let at = 0;
  return new Set(
    parts.map(({ count }) => {
      at += count;
      return at;
    }),
  );
}

const ABOUT: Record<Routine['kind'], string> = {
  circuit: 'Initialises',
  deinit:
    'Puts outputs at their inactive level, and releases all other pins of the plan: inputs without pull, no interrupt.',
  sleep: 'Puts pins into the state that they have in low power.',
  wake: 'Puts them back into the state that they have after initialisation.',
};

function routinesOf(
  derived: Derived,
  steps: readonly ProgramStep[],
  isCopied: (register: Register) => boolean,
): ProgramRoutine[] {
  let at = 0;
  return derived.routines.map((routine): ProgramRoutine => {
    const { kind, circuit, lowered, proof, unable } = routine;
    const { operations } = lowered;
    const own =
      kind === 'circuit'
        ? steps.slice(at, at + operations.length)
        : stepsOf(derived, numberHolds(operations), isCopied, new Set(), false);
    if (kind === 'circuit') at += operations.length;
    const name = kind === 'circuit' ? ` the circuit ${circuit?.name ?? 'of unused pads'} alone.` : '';
    const not = unable.map(({ net, why }) => ` ${net} is released: ${why}.`).join('');
    const [failure] = proof.failures;
    return {
      routine,
      about: `${ABOUT[kind]}${name}${not} Gives whether it has run to its end.`,
      ...(failure ? { fault: failure.message } : {}),
      steps: own,
    };
  });
}

const waits = (statements: readonly Statement[]): boolean => statements.some((one) => one.kind === 'wait');

function stepsOf(
  derived: Derived,
  operations: readonly Operation[],
  isCopied: (register: Register) => boolean,
  anew: ReadonlySet<number>,
  hooked = true,
): ProgramStep[] {
  const { comments, hooks } = derived.plan.code;
  let stage = '';
  return operations.map((operation, at) => {
    const begins = operation.stage !== stage || anew.has(at);
    stage = operation.stage;
    const ends = operations[at + 1]?.stage !== stage || anew.has(at + 1);
    const about = comments === undefined ? netsText(derived, operation.pads) : undefined;
    const isHooked = hooks && hooked;
    return {
      ...(begins && comments !== 'none' ? { stage: stageText(derived, stage) } : {}),
      ...(begins && isHooked ? { begins: stage } : {}),
      ...(ends && isHooked ? { ends: stage } : {}),
      ...(about === undefined ? {} : { about }),
      pads: operation.pads,
      statements: statementsOf(operation, 'leave', isCopied, naming()),
    };
  });
}

function stageText(derived: Derived, id: string): string {
  const stage = derived.device.stages.find((one) => one.id === id);
  return `${id}: ${[stage?.title ?? id, stage?.why].filter(Boolean).join(': ')}`;
}

/** The nets whose pins an operation decides; where there are many, those that get something else than zeros. */
function netsText(derived: Derived, pads: readonly PadShare[]): string | undefined {
  if (pads.length === 0) return undefined;
  const set = pads.length > 6 ? pads.filter((one) => one.value !== 0) : pads;
  const told = set.map(({ pad }) => `${pad} ${derived.byPad.get(pad)?.[0]?.net.name ?? ''}`.trim());
  const others = pads.length - set.length;
  const rest =
    others === 0
      ? ''
      : `${told.length > 0 ? '; zero for ' : 'zero for '}${others} ${others > 1 ? 'pins' : 'pin'}`;
  return told.join(', ') + rest;
}

function sectionsOf(derived: Derived, isCopied: (register: Register) => boolean): ProgramSection[] {
  const sections: ProgramSection[] = [];
  const { list } = derived.accessors;
  for (const one of derived.resolved) {
    const first = one.pad && derived.byPad.get(one.pad.id)?.[0];
    if (first !== one || !one.planned || one.pins.length === 0) continue;
    const own = list.filter((it) => !it.group && it.nets[0] === one.net.id);
    sections.push({
      about: netText(one),
      one,
      facts: factsOf(derived, one),
      functions: own.map((it) => functionOf(it, isCopied)),
    });
  }
  const groups = new Map<string, Accessor[]>();
  for (const one of list) {
    if (one.group) groups.set(one.group.id, [...(groups.get(one.group.id) ?? []), one]);
  }
  for (const own of groups.values()) {
    const [first] = own;
    if (!first?.group) continue;
    const bits = first.nets.map((net, bit) => ({ net, bit }));
    const names = bits.map(({ net, bit }) => `bit ${bit} ${derived.byNet.get(net)?.net.name ?? ''}`);
    sections.push({
      about: `${first.group.kind === 'bus' ? 'bus' : 'outputs'} ${first.group.name}: ${listed(names, 32)}`,
      bits,
      group: first.group.id,
      facts: [],
      functions: own.map((it) => functionOf(it, isCopied)),
    });
  }
  return sections;
}

/** The lines to the interrupt controller, each with the nets that come in by it, in the order of the plan. */
function interruptLines(
  { device, byPad, resolved }: Derived,
  sections: readonly ProgramSection[],
): InterruptLine[] {
  const lines = new Map<string, InterruptNet[]>();
  for (const one of resolved) {
    const { pad, planned, pins, net } = one;
    if (!pad || !planned || pins.length === 0 || byPad.get(pad.id)?.[0] !== one) continue;
    if (net.role.kind !== 'interrupt' && !interrupts(device, planned)) continue;
    const line = interruptLine(device, pad);
    const id = line === undefined || line === 'none' ? pad.id : line.id;
    const functions = sections.find((it) => it.one === one)?.functions ?? [];
    const usable = (action: string) =>
      functions.find((fn) => fn.accessor.action === action && fn.statements.length > 0);
    const [pending, acknowledge] = [usable('interrupt_pending'), usable('interrupt_acknowledge')];
    const trigger = isSet(device, planned.settings, 'trigger');
    const entry: InterruptNet = {
      net: net.id,
      name: net.name,
      ...(pending && acknowledge ? { pending, acknowledge } : {}),
      byLevel: trigger === 'high' || trigger === 'low',
    };
    lines.set(id, [...(lines.get(id) ?? []), entry]);
  }
  return [...lines].map(([id, nets]) => ({ id, nets }));
}

/** Which instance a net's signal is of, and the rate that it wants and gets. */
function factsOf(derived: Derived, one: ResolvedNet): ProgramFact[] {
  const { device } = derived;
  const { net, fn } = one;
  const facts: [FactKind, number | undefined][] = [['INTERRUPT_NUMBER', interruptNumber(derived, one)]];
  if (fn) {
    const [, instance] = /(\d{1,6})$/.exec(splitSignal(fn.signal)[0]) ?? [];
    const wanted = wantedRate(net.demands);
    const rate = wanted === undefined ? undefined : nearestRate(device, fn.signal, wanted);
    const format = net.demands?.format === undefined ? undefined : formatOf(net.demands.format);
    const port = Object.keys(device.description.recipe.ports).indexOf(one.pad?.port ?? '');
    facts.push(
      ['PORT', port < 0 ? undefined : port],
      ['BIT', one.pad?.bit],
      ['INSTANCE', instance === undefined ? undefined : Number(instance)],
      ['RATE_WANTED', wanted],
      ['RATE_GOT', rate?.hertz],
      ['DIVIDER', rate?.divider],
    );
    if (format?.kind === 'frame')
      facts.push(
        ['DATA_BITS', format.dataBits],
        ['PARITY', ['N', 'O', 'E'].indexOf(format.parity)],
        ['STOP_HALF_BITS', format.stopBits * 2],
      );
    if (format?.kind === 'mode')
      facts.push(['SPI_MODE', format.mode], ['LSB_FIRST', format.bitOrder === 'lsb' ? 1 : 0]);
  }
  return facts.flatMap(([kind, value]) => {
    const whole = value === undefined ? undefined : Math.round(value);
    return whole !== undefined && whole >= 0 && whole < 2 ** 32 ? [{ net: net.id, kind, value: whole }] : [];
  });
}

/** Number of the line that a net interrupts by, where the part says how they are counted. */
function interruptNumber({ device }: Derived, { net, pad, planned }: ResolvedNet): number | undefined {
  if (!pad || !planned) return undefined;
  if (net.role.kind !== 'interrupt' && !interrupts(device, planned)) return undefined;
  const line = interruptLine(device, pad);
  return line === undefined || line === 'none' ? undefined : line.number;
}

/** "FAN_1: output, asserted low, starts inactive (latch high); pad F6, pin 92". */
function netText(one: ResolvedNet): string {
  const { net, pad, pins, planned } = one;
  const mode = planned?.settings.values.mode;
  const parts = [roleText(net.role)];
  if (one.fn && roleText(net.role) !== one.fn.signal) parts.push(one.fn.signal);
  if (mode === 'output' || mode === 'input') parts.push(`asserted ${net.settings.active ?? 'high'}`);
  if (mode === 'output') {
    parts.push(`starts ${net.settings.start ?? 'inactive'} (latch ${latchLevel(net.settings)})`);
  }
  return `${net.name}: ${parts.join(', ')}; pad ${pad?.id}, pin ${pins.join(', ')}`.replaceAll('·', '/');
}

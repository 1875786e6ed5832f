import { listed } from '../../../base/text/listed';
import type { Accessor } from '../../../derive/accessors/accessors';
import type { Derived } from '../../../derive/derive';
import { nearestRate } from '../../../derive/electrical/rates';
import type { PadShare } from '../../../derive/machine/operations';
import { latchLevel, type ResolvedNet } from '../../../derive/resolve/resolve';
import { splitSignal } from '../../../description/types';
import type { Register } from '../../../device/registers/types';
import { roleText } from '../../../plan/model/types';
import { functionOf } from './accessor';
import { naming, statementsOf, touched } from './operation';
import type { FactKind, Program, ProgramFact, ProgramSection, ProgramStep, Statement, Width } from './types';

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
  const steps = stepsOf(derived, isCopied);
  const sections = sectionsOf(derived, isCopied);
  const functions = sections.flatMap((one) => one.functions);
  const registers = new Set<Register>();
  for (const { statements } of [...steps, ...functions]) {
    for (const register of touched(statements)) registers.add(register);
  }
  return {
    registers: [...registers].sort((a, b) => a.address - b.address),
    copies: [...shadows.keys()].map((register) => ({ register, reset: register.reset })),
    steps,
    sections,
    torn: functions.some(({ statements }) => statements.some((one) => one.kind === 'enter')),
    waits: {
      initialisation: steps.some(({ statements }) => waits(statements)),
      accessors: functions.some(({ statements }) => waits(statements)),
    },
    widths: [...new Set([...registers].map((one): Width => one.bits))].sort((a, b) => a - b),
  };
}

const waits = (statements: readonly Statement[]): boolean => statements.some((one) => one.kind === 'wait');

function stepsOf(derived: Derived, isCopied: (register: Register) => boolean): ProgramStep[] {
  let stage = '';
  return derived.lowered.operations.map((operation) => {
    const begins = operation.stage !== stage;
    stage = operation.stage;
    const about = netsText(derived, operation.pads);
    return {
      ...(begins ? { stage: stageText(derived, stage) } : {}),
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

/** Which instance a net's signal is of, and the rate that it wants and gets. */
function factsOf({ device }: Derived, { net, fn }: ResolvedNet): ProgramFact[] {
  if (!fn) return [];
  const [, instance] = /(\d{1,6})$/.exec(splitSignal(fn.signal)[0]) ?? [];
  const wanted = net.demands?.rateHertz;
  const rate = wanted === undefined ? undefined : nearestRate(device, fn.signal, wanted);
  const facts: [FactKind, number | undefined][] = [
    ['INSTANCE', instance === undefined ? undefined : Number(instance)],
    ['RATE_WANTED', wanted],
    ['RATE_GOT', rate?.hertz],
    ['DIVIDER', rate?.divider],
  ];
  return facts.flatMap(([kind, value]) => {
    const whole = value === undefined ? undefined : Math.round(value);
    return whole !== undefined && whole >= 0 && whole < 2 ** 32 ? [{ net: net.id, kind, value: whole }] : [];
  });
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

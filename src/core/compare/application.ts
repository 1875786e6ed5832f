import type { Derived } from '../derive/derive';
import { routinePrototype } from '../output/code/c/common';
import { cNames } from '../output/code/c/names';
import { prototypeOf } from '../output/code/c/statements';
import { programOf } from '../output/code/program/program';
import type { Aligned } from './align';

/** A name that the application may use. */
export interface ApplicationName {
  name: string;
  /** How it is declared; of constants only that they are. */
  declaration: string;
  /** Of constants. */
  value?: number;
  /** The application defines it, generated code calls it. */
  handler?: true;
  circuit: string;
}

/** What the generated header offers, and calls, by name. */
export function applicationNames(derived: Derived): Map<string, ApplicationName> {
  const names = cNames(derived);
  const program = programOf(derived);
  const found = new Map<string, ApplicationName>();
  const { plan, byNet } = derived;
  const circuitOf = (net: string | undefined): string => {
    const id = net === undefined ? undefined : byNet.get(net)?.net.circuit;
    return plan.circuits.find((one) => one.id === id)?.name ?? '';
  };
  const add = (name: string, rest: Omit<ApplicationName, 'name'>): void => {
    found.set(name, { name, ...rest });
  };
  const own = (name: 'init' | 'init_done', type: string): void =>
    add(names.own(name), { declaration: `${type} ${names.own(name)}(void)`, circuit: '' });
  own('init', 'void');
  own('init_done', 'bool');
  for (const one of program.routines)
    add(names.routine(one), {
      declaration: routinePrototype(names, one),
      circuit: one.routine.circuit?.name ?? '',
    });
  for (const { group, bits = [], facts, functions } of program.sections) {
    for (const fact of facts)
      add(names.fact(fact), { declaration: 'constant', value: fact.value, circuit: circuitOf(fact.net) });
    if (group !== undefined)
      for (const { net, bit } of bits)
        add(names.bit(group, net), { declaration: 'constant', value: bit, circuit: circuitOf(net) });
    for (const fn of functions)
      if (fn.statements.length > 0)
        add(names.function(fn), {
          declaration: prototypeOf(names, fn),
          circuit: circuitOf(fn.accessor.nets[0]),
        });
  }
  for (const one of program.interrupts) {
    add(names.line(one.id), { declaration: `void ${names.line(one.id)}(void)`, circuit: '' });
    for (const { net } of one.nets)
      add(names.handler(net), {
        declaration: `void ${names.handler(net)}(void)`,
        handler: true,
        circuit: circuitOf(net),
      });
  }
  return found;
}

/** What the application sees of a change. */
export interface ApplicationChanges {
  /** An application that uses everything there was compiles against what there is. */
  compiles: boolean;
  /** Names that are no more. */
  gone: ApplicationName[];
  /** Names that are declared otherwise. */
  declared: { name: string; circuit: string; from: string; to: string }[];
  /** Constants with another value: it compiles, and means something else. */
  values: { name: string; circuit: string; from: number; to: number }[];
  added: ApplicationName[];
  /** Handlers that the application has to have from now on. */
  handlers: ApplicationName[];
  /** Nets that are active at the other level: calls stay as they are, the pin is driven the other way. */
  levels: { name: string; circuit: string; from: string; to: string }[];
}

export function applicationChanges(from: Derived, to: Derived, aligned: Aligned): ApplicationChanges {
  const [before, after] = [applicationNames(from), applicationNames(to)];
  const gone = [...before.values()].filter(({ name }) => !after.has(name));
  const fresh = [...after.values()].filter(({ name }) => !before.has(name));
  const pairs = [...before.values()].flatMap((was) => {
    const is = after.get(was.name);
    return is ? [{ was, is }] : [];
  });
  const declared = pairs.flatMap(({ was, is }) =>
    was.declaration === is.declaration
      ? []
      : [{ name: is.name, circuit: is.circuit, from: was.declaration, to: is.declaration }],
  );
  return {
    // A handler that nobody calls any more hurts nobody.
    compiles: gone.every((one) => one.handler) && declared.length === 0,
    gone,
    declared,
    values: pairs.flatMap(({ was, is }) =>
      was.value === is.value || was.value === undefined || is.value === undefined
        ? []
        : [{ name: is.name, circuit: is.circuit, from: was.value, to: is.value }],
    ),
    added: fresh.filter((one) => !one.handler),
    handlers: fresh.filter((one) => one.handler),
    levels: aligned.both.flatMap(([was, is]) => {
      const [old, now] = [was.settings.active ?? 'high', is.settings.active ?? 'high'];
      const circuit = to.plan.circuits.find((one) => one.id === is.circuit)?.name ?? '';
      return old === now ? [] : [{ name: is.name, circuit, from: old, to: now }];
    }),
  };
}

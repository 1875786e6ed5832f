import type { Derived } from '../../derive/derive';
import type { NetId } from '../../plan/model/types';
import { plainNames } from './names';
import { programOf } from './program/program';

const known = new WeakMap<Derived, Map<string, NetId>>();

/** What is called after a net in generated code of any language, in lower case and without a prefix. */
function namesOf(derived: Derived): Map<string, NetId> {
  let names = known.get(derived);
  if (!names) {
    names = new Map();
    const plain = plainNames(derived, { registers: [] });
    const program = programOf(derived);
    for (const { functions, facts, bits, group } of program.sections) {
      for (const fn of functions) {
        const [net] = fn.accessor.nets;
        if (net !== undefined) names.set(plain.function(fn).toLowerCase(), net);
      }
      for (const fact of facts) names.set(plain.fact(fact).toLowerCase(), fact.net);
      if (group !== undefined)
        for (const { net } of bits ?? []) names.set(plain.bit(group, net).toLowerCase(), net);
    }
    for (const { nets } of program.interrupts)
      for (const { net } of nets) names.set(plain.handler(net).toLowerCase(), net);
    known.set(derived, names);
  }
  return names;
}

/**
 * The net that a line of generated code is about: a function of its own, the body of one, or a constant. Lines count from 1. Undefined for
 * lines of initialisation, and for those of no net.
 */
export function netOfLine(derived: Derived, text: string, line: number): NetId | undefined {
  const names = namesOf(derived);
  const lines = text.split('\n');
  for (let at = line - 1; at >= 0; at--) {
    const own = lines[at] ?? '';
    for (const [word] of own.toLowerCase().matchAll(/[a-z_]\w*/g)) {
      // A prefix may stand before it, word by word.
      for (let rest = word; ; rest = rest.slice(rest.indexOf('_') + 1)) {
        const net = names.get(rest);
        if (net !== undefined) return net;
        if (!rest.includes('_')) break;
      }
    }
    // What is further in belongs to what stands before it.
    if (!/^\s+\S/.test(own) && !/^[{}]/.test(own)) return undefined;
    if (/^}/.test(own) && at < line - 1) return undefined;
  }
  return undefined;
}

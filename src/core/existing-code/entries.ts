import { append } from '../base/lists';
import type { Expression, FunctionDefinition, Statement, Unit } from './c/ast';
import { wholeValue } from './c/constant';
import { parseUnit } from './c/parse';
import type { Token } from './c/tokens';

export interface Entries {
  /** Functions that can be called with nothing, those first whose names say that they set something up. */
  possible: string[];
  chosen: string[];
  byName: Map<string, FunctionDefinition>;
}

/**
 * Where code begins: at `main` if there is one; else with the functions that no other calls, those whose name says that they set
 * something up before others. Interrupt handlers are not followed.
 */
export function entriesOf(units: readonly Unit[], wanted?: readonly string[]): Entries {
  const byName = new Map<string, FunctionDefinition>();
  const called = new Set<string>();
  for (const unit of units) {
    for (const one of unit.functions) {
      if (!byName.has(one.name)) byName.set(one.name, one);
      eachCall(one.body, (name) => {
        if (name !== one.name) called.add(name);
      });
    }
    for (const one of unit.loose) eachCall(one, (name) => called.add(name));
  }
  const all = [...byName.values()].filter(isEntry).map((one) => one.name);
  // Those that may be meant come first.
  const possible = [...all.filter(setsUp), ...all.filter((name) => !setsUp(name))];
  if (wanted && wanted.length > 0)
    return { possible, chosen: wanted.filter((name) => byName.has(name)), byName };
  if (units.some((unit) => unit.loose.length > 0) && possible.every((name) => called.has(name)))
    return { possible, chosen: [], byName };
  if (byName.has('main')) return { possible, chosen: ['main'], byName };
  const roots = possible.filter((name) => !called.has(name));
  const setUp = roots.filter(setsUp);
  return { possible, chosen: setUp.length > 0 ? setUp : roots, byName };
}

const setsUp = (name: string): boolean =>
  name === 'main' ||
  (/init|setup|set_up|config|start/i.test(name) && !/de_?init/i.test(name) && !/done$/i.test(name));

const isEntry = ({ name, type, static: isStatic }: FunctionDefinition): boolean =>
  type.parameters.length === 0 &&
  !/(handler|_isr|^isr_.*|interrupt)$/i.test(name) &&
  !(isStatic && /^(read|get|is)/i.test(name));

function eachCall(node: Statement | Expression | undefined, tell: (name: string) => void): void {
  const pending: unknown[] = [node];
  while (pending.length > 0) {
    const one = pending.pop();
    if (Array.isArray(one)) append(pending, one);
    else if (typeof one === 'object' && one !== null) {
      const { kind, of, type: _, ...rest } = one as { kind?: string; of?: Expression; type?: unknown };
      if (kind === 'call' && of?.kind === 'name') tell(of.name);
      // A function whose address is taken is called from elsewhere.
      if (kind === 'name') tell((one as { name: string }).name);
      pending.push(of, ...Object.values(rest));
    }
  }
}

/** The address that tokens stand for: a number, or what a pointer to one leads to. */
export function addressIn(tokens: readonly Token[]): number | undefined {
  const place = tokens[0]?.place;
  if (!place) return undefined;
  const end: Token = { kind: 'sign', text: ';', place, spaced: false };
  const { unit, problems } = parseUnit(place.file, [...tokens, end], false);
  const [only, other] = unit.loose;
  if (problems.length > 0 || other || only?.kind !== 'do') return undefined;
  let value = only.value;
  for (;;) {
    if (value.kind === 'unary' && value.operator === '*') value = value.of;
    else if (value.kind === 'cast') value = value.of;
    else break;
  }
  const found = wholeValue(value, unit.enumerators);
  return found === undefined || found < 0n || found > 0xffffffffn ? undefined : Number(found);
}

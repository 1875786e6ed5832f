import { append, largest } from '../../base/lists';
import type { Problem } from '../../base/problems';
import type { FileRegister } from '../../description/register-file';
import type { Pad } from '../../description/types';
import { type BuiltRecipe, buildRecipe } from '../attach/build';
import type { FieldRoleChoice, GateChoice } from '../attach/choices';
import type { FieldPlace } from '../attach/places';
import type { RegisterFamily } from '../attach/port-registers';
import { type FieldRole, roleKind } from '../attach/roles';
import {
  type GateAnswer,
  type HardwareAnswers,
  numberOf,
  type RegisterAnswer,
  type TopicAnswer,
} from './answers';
import { NONE, type Shape, type ShapeRegister, shapeOf, TOPICS } from './topics';

/** Where the questions begin: nothing is answered, and registers stand one after the other until offsets are typed. */
export const blankAnswers = (): HardwareAnswers => ({
  endian: 'little',
  layout: 'port',
  width: 32,
  base: '',
  step: '',
  portStep: '',
  wordReset: '',
  bases: {},
  topics: Object.fromEntries(TOPICS.map((topic) => [topic.id, blankTopic()])),
  gate: null,
});

const blankTopic = (): TopicAnswer => ({ shape: NONE, registers: {}, values: {}, bits: 2, stride: 2 });

/** An answer with a shape chosen: its registers get names and values to begin with, and keep what was typed for them. */
export function withShape(answer: TopicAnswer, shape: Shape | undefined, codeBits = 2): TopicAnswer {
  if (!shape) return { ...answer, shape: NONE };
  const open = shape.registers.find((one) => one.bits === 'open');
  // A code that nobody has said anything of yet is as wide as the function table needs.
  const fresh = open?.role === 'code' && answer.registers.code === undefined;
  const bits = fresh ? Math.max(2, codeBits) : answer.bits;
  const registers: TopicAnswer['registers'] = { ...answer.registers };
  const values: TopicAnswer['values'] = { ...answer.values };
  for (const { role, name } of shape.registers) {
    registers[role] ??= { name, offset: '', low: '', reset: '' };
    values[role] = fittingValues(role, values[role] ?? roleKind(role).values, bitsOf(shape, role, bits));
  }
  const stride = fresh ? ([2, 4, 8].find((one) => one >= bits) ?? bits) : answer.stride;
  return { ...answer, shape: shape.id, registers, values, bits, stride };
}

const bitsOf = (shape: Shape, role: FieldRole, open: number): number => {
  const bits = shape.registers.find((one) => one.role === role)?.bits ?? 1;
  return bits === 'open' ? open : bits;
};

/** Values that a field of so many bits can hold; where the part names them itself, one for each number. */
function fittingValues(
  role: FieldRole,
  values: Readonly<Record<string, number>>,
  bits: number,
): Record<string, number> {
  const fitting = Object.fromEntries(Object.entries(values).filter(([, value]) => value < 2 ** bits));
  if (roleKind(role).free && bits <= 3)
    for (let number = 0; number < 2 ** bits; number++)
      if (!Object.values(fitting).includes(number)) fitting[`${role}-${number}`] = number;
  return fitting;
}

/** An answer with another number of bits for each pad. */
export function withBits(answer: TopicAnswer, shape: Shape, bits: number): TopicAnswer {
  const values = { ...answer.values };
  for (const { role, bits: given } of shape.registers)
    if (given === 'open') values[role] = fittingValues(role, values[role] ?? {}, bits);
  return { ...answer, bits, stride: Math.max(bits, answer.stride), values };
}

/** The question that comes before the others. */
export const WHERE = 'Where the registers are';
export const GATE = 'What has to be switched on first?';

/** Ports in the order in which documents number them: A, B … Z, AA; 0, 1 … 10. */
export const inPortOrder = (ports: readonly string[]): string[] =>
  [...ports].sort((a, b) => a.length - b.length || (a < b ? -1 : 1));

/** The bits that the codes of a part's function table need. */
export const bitsOfCodes = (codes: readonly (number | null)[]): number =>
  Math.max(1, Math.ceil(Math.log2(Math.max(0, largest(codes.map((code) => code ?? 0))) + 1)));

/** The address of each port's registers, as far as it can be told. */
export function portAddresses(answers: HardwareAnswers, ports: readonly string[]): Map<string, number> {
  const base = numberOf(answers.base);
  const step = numberOf(answers.step) ?? 0;
  return new Map(
    ports.flatMap((port, index) => {
      const own =
        numberOf(answers.bases[port] ?? '') ?? (base === undefined ? undefined : base + step * index);
      return own === undefined ? [] : [[port, own] as const];
    }),
  );
}

/** The address of each pad's word: pads follow each other in the order of ports and bits, or each port begins anew. */
export function padAddresses(
  answers: HardwareAnswers,
  ports: readonly string[],
  pads: readonly Pad[],
): Map<string, number> {
  const [base, step, portStep] = [answers.base, answers.step, answers.portStep].map(numberOf);
  const portOf = (pad: Pad): number => ports.indexOf(pad.port ?? '');
  const sorted = [...pads].sort((a, b) => portOf(a) - portOf(b) || (a.bit ?? 0) - (b.bit ?? 0));
  return new Map(
    sorted.map((pad, index) => {
      const within =
        portStep === undefined ? (step ?? 0) * index : portStep * portOf(pad) + (step ?? 0) * (pad.bit ?? 0);
      return [pad.id, (base ?? 0) + within];
    }),
  );
}

interface Reader {
  answers: HardwareAnswers;
  /** Where the registers of each port begin. */
  addresses: ReadonlyMap<string, number>;
  ports: readonly string[];
  pads: readonly Pad[];
  /** Bits of the widest port. */
  width: number;
  problems: Problem[];
}

/** A recipe of what has been answered so far, and what is still to be said. */
export interface Answered {
  /** Absent as long as it is not said where the registers are, and how direction is chosen. */
  built?: BuiltRecipe;
  /** What is missing or cannot be, each with the question that it belongs to; that question is left out of the recipe. */
  problems: Problem[];
}

/** Answers → a recipe, as far as they go. */
export function recipeOfAnswers(
  answers: HardwareAnswers,
  given: readonly string[],
  pads: readonly Pad[],
): Answered {
  const ports = inPortOrder(given);
  const problems: Problem[] = [];
  const each = answers.layout === 'port' ? 'port' : 'pad';
  const number = (text: string, place: string, what: string): number => {
    const value = numberOf(text);
    if (value === undefined)
      problems.push({
        place,
        message: text.trim() === '' ? `${what} is not said yet` : `"${text.slice(0, 40)}" is no number`,
      });
    return value ?? 0;
  };
  number(answers.base, WHERE, `the address of the first ${each}`);
  const several = (each === 'port' ? ports : pads).length > 1;
  const step = several ? number(answers.step, WHERE, `how far it is from one ${each} to the next`) : 0;
  if (several && answers.step.trim() !== '' && step === 0 && Object.keys(answers.bases).length === 0)
    problems.push({
      place: WHERE,
      message: `all ${each}s would have the same registers`,
    });
  const width = Math.max(1, largest(pads.map((pad) => (pad.bit ?? 0) + 1)));
  if (each === 'pad' && answers.portStep.trim() !== '')
    number(answers.portStep, WHERE, 'how far it is from one port to the next');
  if (each === 'pad' && answers.wordReset.trim() !== '')
    number(answers.wordReset, WHERE, 'the value of a word after reset');
  for (const [port, text] of Object.entries(answers.bases))
    if (each === 'port' && text.trim() !== '') number(text, WHERE, `the address of port ${port}`);
  const addresses = portAddresses(answers, ports);
  const reader: Reader = { answers, addresses, ports, pads, width, problems };
  const places: FieldPlace[] = [];
  const choices: FieldRoleChoice[] = [];
  for (const topic of TOPICS) {
    const answer = answers.topics[topic.id];
    const shape = answer && shapeOf(topic, answer.shape);
    if (!answer || !shape) {
      if (topic.needed) problems.push({ place: topic.question, message: 'choose one of the shapes' });
      continue;
    }
    const before = problems.length;
    const own = shape.registers.flatMap((register) => {
      const place = placeOf(reader, topic.question, answer, register);
      if (!place) return [];
      const values = answer.values[register.role] ?? {};
      checkValues(values, place.bits, topic.question, problems);
      const choice: FieldRoleChoice = { role: register.role, place: place.id, values, reason: '' };
      return [{ place, choice }];
    });
    if (problems.length > before) continue;
    append(
      places,
      own.map((one) => one.place),
    );
    append(
      choices,
      own.map((one) => one.choice),
    );
  }
  const whereKnown = !problems.some((one) => one.place === WHERE);
  const decides = choices.some((one) => one.role === 'direction' || one.role === 'mode');
  checkOverlaps(places, problems);
  const before = problems.length;
  const gates = answers.gate ? gateOf(reader, answers.gate) : [];
  const options = {
    endian: answers.endian,
    choices,
    gates: problems.length > before ? [] : gates,
  };
  if (!whereKnown || !decides) return { problems };
  return { built: buildRecipe({ places }, ports, pads, options), problems };
}

function checkValues(values: Record<string, number>, bits: number, place: string, problems: Problem[]): void {
  const numbers = Object.values(values);
  const wide = numbers.find((value) => !Number.isInteger(value) || value < 0 || value >= 2 ** bits);
  if (wide !== undefined)
    problems.push({ place, message: `${wide} does not fit ${bits} bit${bits === 1 ? '' : 's'}` });
  if (new Set(numbers).size < numbers.length)
    problems.push({ place, message: 'two of its values have the same number' });
}

const ACCESS: Record<'write' | 'read' | 'act', FileRegister['access']> = {
  write: 'read-write',
  read: 'read-only',
  act: 'write-only',
};

const IDENTIFIER = /^[A-Za-z_][A-Za-z0-9_]{0,39}$/;

/** One register's place, by what was typed of it. */
function placeOf(
  reader: Reader,
  question: string,
  answer: TopicAnswer,
  { role, bits: given, title }: ShapeRegister,
): FieldPlace | undefined {
  const { answers, problems } = reader;
  const said = answer.registers[role];
  const bits = given === 'open' ? answer.bits : given;
  const complain = (message: string): undefined => {
    problems.push({ place: question, message });
    return undefined;
  };
  if (!said || !IDENTIFIER.test(said.name))
    return complain(`the name of the register "${title}" is a letter, then letters, digits and _`);
  if (!roleKind(role).bits.includes(bits))
    return complain(`${bits} bits for each pad are not possible for ${title}`);
  const reset = said.reset.trim() === '' ? 0 : numberOf(said.reset);
  if (reset === undefined) return complain(`"${said.reset}" is no value after reset`);
  return answers.layout === 'pad'
    ? padPlace(reader, said, role, bits, complain)
    : portPlace(reader, said, role, given === 'open' ? answer.stride : bits, bits, reset, complain);
}

function padPlace(
  { answers, ports, pads }: Reader,
  said: RegisterAnswer,
  role: FieldRole,
  bits: number,
  complain: (message: string) => undefined,
): FieldPlace | undefined {
  const low = numberOf(said.low);
  if (roleKind(role).access === 'act')
    return complain('registers that set and clear single bits belong to registers of ports');
  if (low === undefined) return complain(`the lowest bit of ${said.name} in the word is not said yet`);
  if (low + bits > answers.width) return complain(`bits ${low} to ${low + bits - 1} leave the word`);
  const family = familyOf(
    'WORD',
    'pad',
    'read-write',
    answers.width,
    padAddresses(answers, ports, pads),
    numberOf(answers.wordReset) ?? 0,
  );
  return {
    id: `{}.WORD ${said.name}`,
    families: [family],
    low: String(low),
    bits,
    shape: '',
    told: true,
    words: { name: said.name, text: '' },
  };
}

function portPlace(
  { answers, ports, addresses, width }: Reader,
  said: RegisterAnswer,
  role: FieldRole,
  stride: number,
  bits: number,
  reset: number,
  complain: (message: string) => undefined,
): FieldPlace | undefined {
  const offset = numberOf(said.offset);
  if (offset === undefined) return complain(`the offset of ${said.name} is not said yet`);
  if (offset % (answers.width / 8) !== 0)
    return complain(`${said.name} at offset ${said.offset} is not aligned to its ${answers.width} bits`);
  if (stride < bits) return complain(`fields of ${bits} bits cannot be ${stride} apart`);
  const room = Math.floor((answers.width - bits) / stride) + 1;
  if (role === 'halves' && 2 * width > answers.width)
    return complain(`${said.name} has no two halves of ${width} bits`);
  const count = Math.ceil(width / room);
  const kind = roleKind(role);
  const families = Array.from({ length: count }, (_, index) =>
    familyOf(
      count === 1 ? said.name : `${said.name}${index}`,
      'port',
      ACCESS[kind.access],
      answers.width,
      new Map(ports.map((port) => [port, (addresses.get(port) ?? 0) + offset + (index * answers.width) / 8])),
      reset,
    ),
  );
  const times = (what: string): string => (stride === 1 ? what : `${stride}*${what}`);
  return {
    id: `P{}.${said.name} ${role}`,
    families,
    low: times(count === 1 ? 'b' : `(b%${room})`),
    ...(count === 1 ? {} : { index: `b/${room}` }),
    bits,
    shape: '',
    told: true,
    words: { name: said.name, text: '' },
  };
}

const familyOf = (
  id: string,
  each: RegisterFamily['each'],
  access: FileRegister['access'],
  bits: 8 | 16 | 32,
  addresses: ReadonlyMap<string, number>,
  reset: number,
): RegisterFamily => ({
  template: each === 'port' ? `P{}.${id}` : `{}.${id}`,
  id,
  each,
  description: '',
  bits,
  access,
  readActs: false,
  members: new Map(
    [...addresses].map(([key, address]) => [
      key,
      {
        address,
        reset,
        register: { name: id, description: '', offset: 0, bits, access, reset, fields: [], line: 0 },
      },
    ]),
  ),
});

/** Two registers at one offset, or of one name; in words of pads, bits with two meanings. */
function checkOverlaps(places: readonly FieldPlace[], problems: Problem[]): void {
  const bits = new Set<number>();
  const byName = new Map<string, number>();
  const byAddress = new Map<number, string>();
  const complain = (message: string): void => void problems.push({ place: WHERE, message });
  for (const { families, low, bits: width } of places) {
    for (const family of families) {
      if (family.each === 'pad') {
        for (let bit = Number(low); bit < Number(low) + width; bit++) {
          if (bits.has(bit)) complain(`bit ${bit} of the word has two meanings`);
          bits.add(bit);
        }
        continue;
      }
      const address = [...family.members.values()][0]?.address ?? 0;
      const [other, known] = [byAddress.get(address), byName.get(family.id)];
      if (other !== undefined && other !== family.id)
        complain(`${other} and ${family.id} have the same offset`);
      if (known === address) complain(`${family.id} has two meanings`);
      else if (known !== undefined) complain(`two registers are called ${family.id}`);
      byName.set(family.id, address);
      byAddress.set(address, family.id);
    }
  }
}

function gateOf({ answers, ports, problems }: Reader, gate: GateAnswer): GateChoice[] {
  const place = GATE;
  const address = numberOf(gate.address);
  if (address === undefined) problems.push({ place, message: 'the address of the register is not said yet' });
  if (!IDENTIFIER.test(gate.name)) problems.push({ place, message: 'the register has no name yet' });
  const bits: Record<string, number> = {};
  for (const port of ports) {
    const bit = numberOf(gate.ports[port] ?? '');
    if (bit === undefined || bit >= answers.width)
      problems.push({ place, message: `which bit is port ${port}'s is not said yet` });
    else bits[port] = bit;
  }
  if (new Set(Object.values(bits)).size < Object.values(bits).length)
    problems.push({ place, message: 'two ports have the same bit' });
  if (address === undefined) return [];
  return [
    { register: gate.name, address, bits: answers.width, reset: 0, ports: bits, opensAt: gate.opensAt },
  ];
}

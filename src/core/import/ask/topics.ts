import type { FieldRole } from '../attach/roles';

/** One register of a shape, and what stands in it of each pad. */
export interface ShapeRegister {
  role: FieldRole;
  /** What to look for on the page. */
  title: string;
  /** Bits of each pad; `open` where they are asked. */
  bits: number | 'open';
  /** A name to begin with, until the page's is typed. */
  name: string;
}

/** A usual way in which ports do something. */
export interface Shape {
  id: string;
  title: string;
  registers: readonly ShapeRegister[];
}

export interface Topic {
  id: string;
  question: string;
  hint: string;
  shapes: readonly Shape[];
  /** The part must have one of the shapes. */
  needed?: true;
}

const one = (role: FieldRole, title: string, name: string, bits: number | 'open' = 1): ShapeRegister => ({
  role,
  title,
  name,
  bits,
});

const LATCH = one('latch', 'output latch', 'LATCH');
const SETS = one('set', 'writing 1 sets', 'SETS');
const CLEARS = one('clear', 'writing 1 clears', 'CLEARS');
const TURNS = one('toggle', 'writing 1 toggles', 'TURNS');

/** What is asked of a part's port hardware, in the order in which documents tell it. */
export const TOPICS: readonly Topic[] = [
  {
    id: 'direction',
    question: 'How is direction chosen?',
    hint: 'Whether a pad listens or drives: a bit for each pad, or a field that also says function and analog.',
    needed: true,
    shapes: [
      { id: 'bit', title: 'one bit for each pad', registers: [one('direction', 'direction', 'DIR')] },
      {
        id: 'mode',
        title: 'a field for each pad: input, output, function, analog',
        registers: [one('mode', 'mode of the pad', 'USE', 'open')],
      },
    ],
  },
  {
    id: 'level',
    question: 'How does an output get its level?',
    hint: 'The latch, and registers by which single bits of it are changed without reading.',
    shapes: [
      { id: 'latch', title: 'one latch', registers: [LATCH] },
      {
        id: 'set-clear',
        title: 'a latch, one register that sets, one that clears',
        registers: [LATCH, SETS, CLEARS],
      },
      {
        id: 'set-clear-toggle',
        title: 'a latch, and registers that set, clear and toggle',
        registers: [LATCH, SETS, CLEARS, TURNS],
      },
      {
        id: 'halves',
        title: 'a latch, and a word whose lower half sets and upper half clears',
        registers: [LATCH, one('halves', 'sets and clears', 'HALVES')],
      },
    ],
  },
  {
    id: 'read',
    question: 'Where is the level at a pad read?',
    hint: 'A register that can only be read.',
    shapes: [
      { id: 'bit', title: 'one bit for each pad', registers: [one('level', 'level at the pad', 'SEEN')] },
    ],
  },
  {
    id: 'pull',
    question: 'How is a pull switched on?',
    hint: 'Resistors to supply or ground inside the pad.',
    shapes: [
      { id: 'up', title: 'one bit: pull-up', registers: [one('pull-up', 'pull-up', 'UP')] },
      {
        id: 'up-down',
        title: 'one bit for up, another for down',
        registers: [one('pull-up', 'pull-up', 'UP'), one('pull-down', 'pull-down', 'DOWN')],
      },
      {
        id: 'on-way',
        title: 'one bit switches it on, another says which way',
        registers: [one('pull-on', 'pull on', 'PULLED'), one('pull-way', 'up or down', 'WAY')],
      },
      { id: 'field', title: 'a field: none, up, down', registers: [one('pull', 'pull', 'PULL', 2)] },
    ],
  },
  {
    id: 'function',
    question: 'How is a pad given to a peripheral?',
    hint: 'The code of the function table, and where there is one the bit that switches it on.',
    shapes: [
      {
        id: 'code',
        title: 'a code for each pad; 0 is the plain port',
        registers: [one('code', 'function code', 'CODE', 'open')],
      },
      {
        id: 'bit-code',
        title: 'a bit that switches it on, and a code',
        registers: [
          one('function', 'function instead of plain port', 'ALT'),
          one('code', 'function code', 'CODE', 'open'),
        ],
      },
      {
        id: 'bit',
        title: 'a bit only: each pad has one function',
        registers: [one('function', 'function instead of plain port', 'ALT')],
      },
    ],
  },
  {
    id: 'analog',
    question: 'How does a pad become analog?',
    hint: 'A switch to the converter, or the digital stage that has to be off.',
    shapes: [
      { id: 'on', title: 'one bit: analog on', registers: [one('analog', 'analog switch', 'ANLG')] },
      {
        id: 'digital',
        title: 'one bit: digital stage on',
        registers: [one('digital', 'digital input stage', 'DIG')],
      },
      {
        id: 'both',
        title: 'both',
        registers: [one('analog', 'analog switch', 'ANLG'), one('digital', 'digital input stage', 'DIG')],
      },
    ],
  },
  {
    id: 'output-type',
    question: 'How does an output become open-drain?',
    hint: 'A bit for each pad.',
    shapes: [
      { id: 'bit', title: 'one bit for each pad', registers: [one('outputType', 'output type', 'OPEN')] },
    ],
  },
  {
    id: 'drive',
    question: 'Is there a drive strength?',
    hint: 'A bit or field for each pad; its values are named as the document names them.',
    shapes: [
      {
        id: 'field',
        title: 'a field for each pad',
        registers: [one('drive', 'drive strength', 'FORCE', 'open')],
      },
    ],
  },
  {
    id: 'speed',
    question: 'Is there a speed or slew rate?',
    hint: 'A bit or field for each pad.',
    shapes: [
      { id: 'field', title: 'a field for each pad', registers: [one('speed', 'speed', 'RATE', 'open')] },
    ],
  },
];

export const NONE = 'none';

export const shapeOf = (topic: Topic, id: string): Shape | undefined =>
  topic.shapes.find((shape) => shape.id === id);

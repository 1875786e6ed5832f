/**
 * What a line of a script can be: the one table that reading, error messages, completion and the list of steps in the help follow
 * from.
 */
export type Slot =
  | { slot: 'word'; text: string }
  /** One of several words. */
  | { slot: 'choice'; as: string; of: readonly string[] }
  | { slot: 'net'; as: string; which: NetSort }
  /** A net, a bus, or the outputs of a circuit. */
  | { slot: 'target'; as: string; which: 'driven' | 'read' }
  | { slot: 'time'; as: string }
  | { slot: 'volts'; as: string }
  | { slot: 'hertz'; as: string }
  | { slot: 'percent'; as: string }
  | { slot: 'number'; as: string; least: number; most: number }
  /** A whole number worked out: `1 << i`. */
  | { slot: 'value'; as: string }
  | { slot: 'name'; as: string }
  | { slot: 'trial'; as: string }
  | { slot: 'routine'; as: string }
  | { slot: 'stage'; as: string }
  /** All that is left of the line, steps again. */
  | { slot: 'steps'; as: string }
  | { slot: 'registers'; as: string }
  | { slot: 'maybe'; of: readonly Slot[] }
  | { slot: 'either'; of: readonly (readonly Slot[])[] };

/** Which nets a slot is about: those with something at the far end that can be acted on, and so on. */
export type NetSort = 'any' | 'contact' | 'button' | 'encoder' | 'analog' | 'interrupt' | 'wake';

export interface Form {
  id: FormId;
  slots: readonly Slot[];
  says: string;
  example: string;
}

export type FormId =
  | 'set'
  | 'assign'
  | 'volts'
  | 'percent'
  | 'sine'
  | 'noise'
  | 'press'
  | 'release'
  | 'tip'
  | 'turn'
  | 'read'
  | 'wait'
  | 'wait-for'
  | 'expect'
  | 'start'
  | 'initialise'
  | 'step'
  | 'stage'
  | 'interrupts'
  | 'run'
  | 'clock'
  | 'repeat';

const word = (text: string): Slot => ({ slot: 'word', text });
const net = (which: NetSort = 'any', as = 'net'): Slot => ({ slot: 'net', as, which });
const time = (as = 'time'): Slot => ({ slot: 'time', as });
const maybe = (...of: Slot[]): Slot => ({ slot: 'maybe', of });
const volts = (as: string): Slot => ({ slot: 'volts', as });
const number = (as: string, least: number, most: number): Slot => ({ slot: 'number', as, least, most });

/** What is waited for, or expected. */
const CONDITION: Slot = {
  slot: 'either',
  of: [
    [
      word('no'),
      {
        slot: 'choice',
        as: 'finding',
        of: ['findings', 'contention', 'over-current', 'over-voltage', 'floating', 'missed'],
      },
    ],
    [word('no'), word('interrupt'), net('interrupt', 'noInterrupt')],
    [word('no'), word('wake'), net('wake', 'noWake')],
    [word('interrupt'), net('interrupt', 'interrupt')],
    [word('wake'), net('wake', 'wake')],
    [net(), { slot: 'choice', as: 'is', of: ['on', 'off', 'high', 'low', 'floating', 'steady'] }],
    [net('any', 'level'), { slot: 'choice', as: 'compare', of: ['<', '>'] }, volts('volts')],
    [
      { slot: 'target', as: 'reads', which: 'read' },
      word('reads'),
      { slot: 'choice', as: 'read', of: ['on', 'off'] },
    ],
    [{ slot: 'target', as: 'reads', which: 'read' }, word('reads'), { slot: 'value', as: 'value' }],
    [{ slot: 'target', as: 'target', which: 'read' }, word('='), { slot: 'value', as: 'value' }],
  ],
};

export const FORMS: readonly Form[] = [
  {
    id: 'set',
    slots: [
      net(),
      { slot: 'choice', as: 'to', of: ['on', 'off', 'toggle', 'high', 'low', 'free'] },
      maybe(word('for'), time('pulse')),
    ],
    says: 'Drives a net: the firmware an output, the far end an input, the peripheral its own line. `on` and `off` are the active and inactive level.',
    example: 'FAN_1 on',
  },
  {
    id: 'volts',
    slots: [net('analog'), word('='), volts('volts')],
    says: 'Sets an analog source.',
    example: 'LEAF_T1 = 1.2 V',
  },
  {
    id: 'percent',
    slots: [net('analog'), word('='), { slot: 'percent', as: 'percent' }],
    says: 'Turns a potentiometer.',
    example: 'WIND_DIR = 40 %',
  },
  {
    id: 'assign',
    slots: [{ slot: 'target', as: 'target', which: 'driven' }, word('='), { slot: 'value', as: 'value' }],
    says: 'Writes a bus, the outputs of a circuit, or one output: 1 is the active level.',
    example: 'display = 0x3C',
  },
  {
    id: 'sine',
    slots: [
      net('analog'),
      word('sine'),
      { slot: 'hertz', as: 'hertz' },
      volts('amplitude'),
      word('around'),
      volts('volts'),
    ],
    says: 'Lets an analog source swing.',
    example: 'WIND_DIR sine 2 Hz 0.5 V around 1.6 V',
  },
  {
    id: 'noise',
    slots: [net('analog'), word('noise'), volts('amplitude'), word('around'), volts('volts')],
    says: 'Adds noise to an analog source.',
    example: 'LEAF_T1 noise 20 mV around 1.5 V',
  },
  {
    id: 'press',
    slots: [
      word('press'),
      net('contact'),
      maybe(net('contact', 'other')),
      maybe(time()),
      maybe({ slot: 'choice', as: 'bounce', of: ['bounce'] }),
    ],
    says: 'Closes a contact, for a time or until it is released; two nets name a key of a keypad.',
    example: 'press SERVICE_BTN 30 ms bounce',
  },
  {
    id: 'release',
    slots: [
      word('release'),
      net('contact'),
      maybe(net('contact', 'other')),
      maybe({ slot: 'choice', as: 'bounce', of: ['bounce'] }),
    ],
    says: 'Opens a contact.',
    example: 'release SERVICE_BTN',
  },
  {
    id: 'tip',
    slots: [word('tip'), net('contact'), maybe({ slot: 'choice', as: 'bounce', of: ['bounce'] })],
    says: 'Lets a tipping contact close and open once.',
    example: 'tip RAIN_TIP bounce',
  },
  {
    id: 'turn',
    slots: [word('turn'), net('encoder'), number('clicks', -10_000, 10_000)],
    says: 'Turns an encoder by so many clicks; fewer than 0 is the other way.',
    example: 'turn KNOB_A 3',
  },
  {
    id: 'read',
    slots: [word('read'), { slot: 'target', as: 'target', which: 'read' }],
    says: 'Calls the firmware’s function that reads.',
    example: 'read SERVICE_BTN',
  },
  { id: 'wait', slots: [word('wait'), time()], says: 'Lets time pass.', example: 'wait 20 ms' },
  {
    id: 'wait-for',
    slots: [word('wait'), word('for'), CONDITION, maybe(word('within'), time('within'))],
    says: 'Lets time pass until something is so; 10 s at most, unless another time is given.',
    example: 'wait for interrupt RAIN_TIP within 1 s',
  },
  {
    id: 'expect',
    slots: [
      word('expect'),
      CONDITION,
      maybe({
        slot: 'either',
        of: [
          [word('within'), time('within')],
          [word('for'), time('for')],
          [{ slot: 'choice', as: 'when', of: ['always', 'never'] }],
        ],
      }),
    ],
    says: 'Says what must be so: now, within a time, for a time, or from power-up to the end of the play.',
    example: 'expect LAMP_RED on within 5 ms',
  },
  {
    id: 'start',
    slots: [
      word('start'),
      word('from'),
      {
        slot: 'either',
        of: [
          [{ slot: 'choice', as: 'from', of: ['reset'] }],
          [word('random'), number('seed', 0, 4_294_967_295)],
          [{ slot: 'choice', as: 'from', of: ['any'] }, word('state')],
          [word('trial'), { slot: 'trial', as: 'trial' }],
          [word('registers'), { slot: 'registers', as: 'registers' }],
        ],
      },
    ],
    says: 'As the first line: what the chip is before initialisation.',
    example: 'start from random 7',
  },
  {
    id: 'initialise',
    slots: [word('initialise')],
    says: 'Runs what is left of the initialisation. A script that does not say it begins with it.',
    example: 'initialise',
  },
  {
    id: 'step',
    slots: [word('step'), number('count', 0, 100_000)],
    says: 'Runs so many operations of the initialisation; 0 leaves the part as at reset.',
    example: 'step 5',
  },
  {
    id: 'stage',
    slots: [word('stage'), { slot: 'stage', as: 'stage' }],
    says: 'Runs the initialisation up to a stage.',
    example: 'stage direction',
  },
  {
    id: 'interrupts',
    slots: [word('interrupts'), { slot: 'choice', as: 'to', of: ['on', 'off'] }],
    says: 'The firmware lets handlers run, or wait.',
    example: 'interrupts off',
  },
  {
    id: 'run',
    slots: [word('run'), { slot: 'routine', as: 'routine' }],
    says: 'Calls another routine of the code: deinit, sleep, wake.',
    example: 'run sleep',
  },
  {
    id: 'clock',
    slots: [word('clock'), { slot: 'hertz', as: 'hertz' }],
    says: 'How fast the bus is; 16 MHz unless said otherwise.',
    example: 'clock 48 MHz',
  },
  {
    id: 'repeat',
    slots: [
      word('repeat'),
      number('count', 1, 1_000_000),
      maybe(word('with'), { slot: 'name', as: 'with' }),
      word(':'),
      { slot: 'steps', as: 'steps' },
    ],
    says: 'Does steps so many times: those behind the colon, parted by semicolons, or those on the following lines that are further in. `with i` counts from 0.',
    example: 'repeat 8 with i: display = 1 << i; wait 100 ms',
  },
];

/** Words that a step begins with. */
export const STEP_WORDS: ReadonlySet<string> = new Set(
  FORMS.flatMap(({ slots: [first] }) => (first?.slot === 'word' ? [first.text] : [])),
);

function wordsIn(slots: readonly Slot[]): string[] {
  return slots.flatMap((slot) => {
    switch (slot.slot) {
      case 'word':
        return [slot.text];
      case 'choice':
        return [...slot.of];
      case 'maybe':
        return wordsIn(slot.of);
      case 'either':
        return slot.of.flatMap(wordsIn);
      default:
        return [];
    }
  });
}

/** Words of the language that no step begins with. */
export const OTHER_WORDS: ReadonlySet<string> = new Set(
  FORMS.flatMap(({ slots }) => wordsIn(slots)).filter((text) => /^\w/.test(text) && !STEP_WORDS.has(text)),
);

/** Words that a condition begins with. */
export const CONDITION_WORDS: ReadonlySet<string> = new Set(['no', 'interrupt', 'wake']);

/** Both: a net of such a name is written in quotes. */
export const KEPT_WORDS: ReadonlySet<string> = new Set([...STEP_WORDS, ...CONDITION_WORDS]);

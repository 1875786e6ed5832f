/** A figure of something attached: what it is called, its unit, what it is unless the plan says otherwise, and between what. */
export interface Figure {
  title: string;
  unit: string;
  usual: number;
  least: number;
  most: number;
}

const figure = (title: string, unit: string, usual: number, least: number, most: number): Figure => ({
  title,
  unit,
  usual,
  least,
  most,
});

const BOUNCE = {
  bounceMilliseconds: figure('bounces for', 'ms', 2, 0, 100),
  bounces: figure('bounces', '', 5, 0, 50),
};
const LED = {
  ohms: figure('series resistor', 'Ω', 330, 1, 1e6),
  dropVolts: figure('forward voltage', 'V', 2, 0.5, 5),
};
const CONTACT_TIMES = {
  closesMilliseconds: figure('closes after', 'ms', 12, 0, 1000),
  opensMilliseconds: figure('opens after', 'ms', 8, 0, 1000),
};

/** What one kind of thing at the far end of nets is; how it behaves is said in `bench/attached`. */
interface AttachmentMeta {
  title: string;
  /** What its poles are called, in the order of its nets. */
  poles: readonly string[];
  /** From this many nets on; all of its poles where absent. */
  least?: number;
  figures: Readonly<Record<string, Figure>>;
  /** What can be done to it. */
  verbs: readonly Verb[];
}

/** What is done to things at the far end. */
export type Verb = 'press' | 'release' | 'tip' | 'turn' | 'high' | 'low' | 'free' | 'set' | 'sine' | 'noise';

/** Everything that can be attached at the far end of nets. */
export const ATTACHMENTS = {
  button: { title: 'button or switch', poles: ['net'], figures: BOUNCE, verbs: ['press', 'release'] },
  'tipping-contact': {
    title: 'tipping contact',
    poles: ['net'],
    figures: { ...BOUNCE, bounces: figure('bounces', '', 3, 0, 50) },
    verbs: ['tip', 'press', 'release'],
  },
  encoder: { title: 'rotary encoder', poles: ['A', 'B'], figures: {}, verbs: ['turn'] },
  keypad: {
    title: 'matrix keypad',
    poles: Array.from({ length: 8 }, (_, at) => `line ${at + 1}`),
    least: 2,
    figures: { ...BOUNCE, rows: figure('rows among its lines', '', 4, 1, 7) },
    verbs: ['press', 'release'],
  },
  led: { title: 'LED with its resistor', poles: ['net'], figures: LED, verbs: [] },
  'led-bar': {
    title: 'bar of LEDs',
    poles: Array.from({ length: 16 }, (_, at) => `LED ${at + 1}`),
    least: 1,
    figures: LED,
    verbs: [],
  },
  'seven-segments': {
    title: 'seven-segment digits',
    poles: [
      ...['a', 'b', 'c', 'd', 'e', 'f', 'g', 'dot'].map((one) => `segment ${one}`),
      ...[1, 2, 3, 4].map((one) => `digit ${one}`),
    ],
    least: 7,
    figures: { ...LED, segments: figure('segments among its lines', '', 8, 7, 8) },
    verbs: [],
  },
  contactor: {
    title: 'transistor with a relay or contactor',
    poles: ['net'],
    figures: { ohms: figure('base resistor', 'Ω', 1000, 10, 1e6), ...CONTACT_TIMES },
    verbs: [],
  },
  coil: {
    title: 'coil',
    poles: ['net'],
    figures: {
      volts: figure('supply', 'V', 3.3, 0.5, 60),
      ohms: figure('coil', 'Ω', 250, 1, 1e6),
      ...CONTACT_TIMES,
    },
    verbs: [],
  },
  load: {
    title: 'load of which only the current is known',
    poles: ['net'],
    figures: { milliamps: figure('current', 'mA', 5, 0.01, 2000) },
    verbs: [],
  },
  'driven-line': {
    title: 'output of another chip',
    poles: ['net'],
    figures: { starts: figure('starts (0 low, 1 high, 2 free)', '', 2, 0, 2) },
    verbs: ['high', 'low', 'free'],
  },
  'bus-partner': {
    title: 'open-drain partner on the bus',
    poles: ['net'],
    figures: {},
    verbs: ['low', 'free'],
  },
  'analog-source': {
    title: 'analog source',
    poles: ['net'],
    figures: {
      volts: figure('voltage', 'V', 1.65, 0, 60),
      ohms: figure('source resistance', 'Ω', 1000, 0.1, 1e7),
    },
    verbs: ['set', 'sine', 'noise'],
  },
  potentiometer: {
    title: 'potentiometer',
    poles: ['net'],
    figures: {
      ohms: figure('from end to end', 'Ω', 10_000, 10, 1e7),
      position: figure('position (0 to 1)', '', 0.5, 0, 1),
    },
    verbs: ['set'],
  },
  'pull-up': {
    title: 'pull-up resistor',
    poles: ['net'],
    figures: { ohms: figure('resistance', 'Ω', 10_000, 1, 1e8) },
    verbs: [],
  },
  'pull-down': {
    title: 'pull-down resistor',
    poles: ['net'],
    figures: { ohms: figure('resistance', 'Ω', 10_000, 1, 1e8) },
    verbs: [],
  },
  terminator: {
    title: 'terminating resistor',
    poles: ['net', 'other net'],
    least: 1,
    figures: { ohms: figure('resistance', 'Ω', 120, 1, 1e6) },
    verbs: [],
  },
  capacitor: {
    title: 'capacitor to ground',
    poles: ['net'],
    figures: { nanofarads: figure('capacitance', 'nF', 100, 0.001, 1e6) },
    verbs: [],
  },
  crystal: {
    title: 'crystal',
    poles: ['net', 'other net'],
    least: 1,
    figures: { hertz: figure('frequency', 'Hz', 32_768, 1, 1e9) },
    verbs: [],
  },
} as const satisfies Record<string, AttachmentMeta>;

export type AttachmentKind = keyof typeof ATTACHMENTS;
export const ATTACHMENT_KINDS = Object.keys(ATTACHMENTS) as AttachmentKind[];
export const attachmentMeta = (kind: AttachmentKind): AttachmentMeta => ATTACHMENTS[kind];

/** Something at the far end of nets, where the plan says more than what follows from the nets' demands. */
export interface Attachment {
  id: string;
  kind: AttachmentKind;
  /** In the order of its poles. */
  nets: string[];
  /** Figures other than the usual ones. */
  figures?: Record<string, number>;
}

/** The figures of an attachment, those that it does not give being the usual ones. */
export function figuresOf({ kind, figures }: Pick<Attachment, 'kind' | 'figures'>): Record<string, number> {
  const meta = attachmentMeta(kind);
  return {
    ...Object.fromEntries(Object.entries(meta.figures).map(([key, { usual }]) => [key, usual])),
    ...figures,
  };
}

/**
 * How much Mavrek takes, in one table. Each limit is well above the largest real part (2,000 balls, 20,000 pad-function pairs,
 * 60,000 registers) and plan (2,000 nets), and is checked before the work that it bounds. `docs/limits.md` is printed from here.
 */
const TABLE = {
  problems: [50, 'problems', 'Problems listed of a file or a part; how many more there are is said'],
  formProblems: [20, 'problems', 'Problems listed of the body of a request'],
  problemCharacters: [1_000, 'characters', 'Place or message of a problem'],
  tableProblems: [1_000, 'problems', 'Problems listed of an imported table'],
  findings: [500, 'findings', 'Findings of one rule; how many more there are is said'],

  entries: [
    70_000,
    'entries',
    'Entries of any one list or object of a JSON file; most have lower limits of their own',
  ],
  planBytes: [2_000_000, 'bytes', 'Plan file, profile'],
  circuits: [1_000, 'circuits', 'Circuits of a plan'],
  nets: [2_000, 'nets', 'Nets of a plan'],
  constraints: [1_000, 'constraints', 'Constraints of a plan'],
  constraintNets: [64, 'nets', 'Nets of a constraint'],
  waivers: [2_000, 'waivers', 'Waivers of a plan'],
  attachments: [2_000, 'attachments', 'Things attached at the far end of nets in a plan'],
  trials: [200, 'trials', 'Trials of a plan'],
  comments: [5_000, 'comments', 'Comments on a plan'],
  trialLines: [500, 'lines', 'Lines of a trial'],
  tableEntries: [2_500, 'entries', 'Entries of each of a plan’s tables: labels, unused pads, severities'],
  schematicPins: [5_000, 'pins', 'Pins of the part in a plan’s netlist'],
  editSteps: [10_000, 'edits', 'Edits in one batch'],
  typedCharacters: [200_000, 'characters', 'Nets typed or pasted at once'],

  deviceBytes: [8_000_000, 'bytes', 'Device description, recipe'],
  partLines: [70_000, 'lines', 'Lines of a part as text'],
  packages: [64, 'packages', 'Packages of a part'],
  pads: [4_000, 'pads', 'Pads of a part'],
  pins: [4_000, 'pins', 'Pins of a package'],
  functions: [40_000, 'pairs', 'Pad-function pairs of a part'],
  peripherals: [4_000, 'instances', 'Peripheral instances of a part'],
  ports: [256, 'ports', 'Ports of a part'],
  blocks: [1_000, 'blocks', 'Register blocks'],
  fields: [256, 'fields', 'Fields of a recipe'],
  registers: [
    65_536,
    'registers',
    'Registers of a part: for each block, instances × registers × count, pieces counted',
  ],
  openings: [
    262_144,
    'pairs',
    'Pairs of a key register and a register that it opens, and of a guard and a register',
  ],
  fieldPlaces: [
    4_000_000,
    'places',
    'Places of fields: fields × pads, or × functions where the place depends on them',
  ],
  settingTuples: [
    100_000,
    'tuples',
    'Combinations of settings of a pad that the tables of a recipe are tried with',
  ],
  settingChecks: [
    20_000_000,
    'checks',
    'Combinations of settings, times tables and exclusions, times sorts of pads that differ in what they have',
  ],

  tableCharacters: [8_000_000, 'characters', 'Pinout or function table, BSDL file'],
  tableRows: [50_000, 'rows', 'Rows of a table or sheet'],
  tableColumns: [200, 'columns', 'Columns of a table or sheet'],
  cellCharacters: [4_000, 'characters', 'A cell of a table'],
  sheets: [100, 'sheets', 'Sheets of a spreadsheet'],
  spreadsheetBytes: [20_000_000, 'bytes', 'Spreadsheet file'],
  documentBytes: [60_000_000, 'bytes', 'PDF document'],
  unpackedBytes: [200_000_000, 'bytes', 'Spreadsheet, unpacked'],
  pageTexts: [
    15_000,
    'texts',
    'Texts of a page of a PDF document; tables are not looked for on a page that has more',
  ],
  pagePoints: [20_000, 'points', 'Width and height of a page of a PDF document, likewise'],
  lineCharacters: [200_000, 'characters', 'A line of a pinout or function table'],
  playSteps: [200_000, 'steps', 'Steps of a trial, repetitions counted each time'],
  documentPages: [2_000, 'pages', 'Pages of a PDF document'],
  netlistBytes: [20_000_000, 'characters', 'Netlist'],
  netlistItems: [3_000_000, 'items', 'Lists and texts of a netlist in EDIF, S-expressions or XML'],
  netlistDepth: [60, 'levels', 'Depth of such a netlist, and of parts within parts in it'],
  netlistInstances: [
    200_000,
    'instances',
    'Instances in a netlist, those within each other counted each time',
  ],
  netlistPins: [200_000, 'pins', 'Pins in a netlist'],
  codeFiles: [200, 'files', 'Files of existing code'],
  codeCharacters: [4_000_000, 'characters', 'Existing code, all files together'],
  dumpCharacters: [8_000_000, 'characters', 'Dump of registers'],
  registerFileCharacters: [40_000_000, 'characters', 'Register description (CMSIS-SVD)'],
  xmlElements: [3_000_000, 'elements', 'Elements of a register description'],
  fileRegisters: [200_000, 'registers', 'Registers in a register description, copies counted'],
  fileFields: [2_000_000, 'fields', 'Fields in a register description, copies counted'],

  noBodyBytes: [1_000, 'bytes', 'Body of a request that needs none'],
  credentialBytes: [6_000, 'bytes', 'Body of a request that signs in, joins or sets a password'],
  formBytes: [64_000, 'bytes', 'Body of a request, if nothing else is said'],
  listBytes: [
    600_000,
    'bytes',
    'Body of a request that carries the columns of a table or the circuits of variants',
  ],
  requestBytes: [4_010_000, 'bytes', 'Body of a request that carries a plan, an edit or corrections'],
  partRequestBytes: [16_010_000, 'bytes', 'Body of a request that carries a description'],
  workSeconds: [20, 'seconds', 'Heavy work for one request, in a worker thread: processor time'],
  workMegabytes: [1_024, 'megabytes', 'Memory of a worker thread'],
  workWaiting: [32, 'requests', 'Requests that wait for a worker thread'],
} as const satisfies Record<string, readonly [number, string, string]>;

export type Limit = keyof typeof TABLE;

export const LIMITS = Object.fromEntries(Object.entries(TABLE).map(([key, [value]]) => [key, value])) as {
  readonly [Key in Limit]: (typeof TABLE)[Key][0];
};

/** The rows of the table: what is limited, how far, in what unit. */
export const limitRows = (): { what: string; value: number; unit: string }[] =>
  Object.values(TABLE).map(([value, unit, what]) => ({ what, value, unit }));

/** 65536 → "65,536". */
export const grouped = (value: number): string => String(value).replace(/\B(?=(\d{3})+$)/g, ',');

/** "2,000 nets", "64 kB", "8 MB". */
export function limitText(limit: Limit): string {
  const [value, unit] = TABLE[limit];
  if (unit !== 'bytes') return `${grouped(value)} ${unit}`;
  return value < 1_000_000 ? `${Math.floor(value / 1000)} kB` : `${Math.floor(value / 1_000_000)} MB`;
}

/** "has 30,000; at most 4,000 pads are taken". */
export const overLimit = (limit: Limit, found: number): string =>
  `has ${grouped(found)}; at most ${limitText(limit)} are taken`;

/** "is longer than 200,000 characters". */
export const tooLong = (limit: Limit): string => `is longer than ${limitText(limit)}`;

/** "is larger than 8 MB". */
export const tooLarge = (limit: Limit): string => `is larger than ${limitText(limit)}`;

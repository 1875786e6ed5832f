import { array, boolean, number, object, string } from 'yup';
import { LIMITS, tooLarge } from '@/core/base/limits';
import { PAD_NAMES } from '@/core/import/tables/mapping';
import { ROLES, SCOPES } from '@/core/people/rights';
import { VERDICTS } from '@/core/review/review';

/** Shapes of request bodies. Whole plans and edits have JSON Schemas instead (see core/formats). */

const id = string().required().max(80);

const nameOf = (what: string) =>
  string()
    .required(`a ${what} needs a name`)
    .max(120, 'the name is longer than 120 characters')
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is refused
    .matches(/^[^\u0000-\u001f]*\S[^\u0000-\u001f]*$/, 'the name holds characters that cannot be printed');

export const newPlanForm = object({
  name: nameOf('plan'),
  device: id,
  package: id,
  /** A board profile to start from; its part and package count then. */
  profile: string().max(80),
});

export const profileForm = object({
  name: nameOf('profile'),
  text: string()
    .defined()
    .max(LIMITS.planBytes, `the plan ${tooLarge('planBytes')}`),
});

export const importForm = object({
  fileName: string().required().max(300),
  text: string()
    .defined()
    .max(LIMITS.planBytes, `the file ${tooLarge('planBytes')}`),
});

export const fileForm = object({
  kind: string().oneOf(['description', 'recipe']).required(),
  fileName: string().required().max(300),
  text: string()
    .defined()
    .max(LIMITS.deviceBytes, `the file ${tooLarge('deviceBytes')}`),
});

export const exportForm = object({ seq: number().required().integer().min(0), target: id });

const seq = number().required().integer().min(0);

/** A moment of a plan: behind which edit. */
export const momentForm = object({ seq });

export const revisionForm = object({
  seq,
  note: string().defined().max(4000, 'the note is longer than 4000 characters'),
  author: string().defined().max(120),
});

const ids = array(string().required().max(80)).max(64);

/** What a comment is about; each kind has its own of these. */
const SUBJECT_KEYS: Readonly<Record<string, readonly string[]>> = {
  plan: [],
  net: ['net'],
  setting: ['net', 'key'],
  pad: ['pad'],
  finding: ['rule', 'nets', 'pads'],
};

export const commentForm = object({
  subject: object({
    kind: string().oneOf(Object.keys(SUBJECT_KEYS)).required(),
    net: string().max(80),
    key: string().max(80),
    pad: string().max(80),
    rule: string().max(80),
    nets: ids,
    pads: ids,
  })
    .noUnknown()
    .required()
    .test('keys', 'the subject of a comment needs what its kind says, and nothing else', (value) => {
      const given = Object.keys(value).filter((key) => key !== 'kind' && value[key as 'net'] !== undefined);
      const wanted = SUBJECT_KEYS[value.kind] ?? [];
      return given.length === wanted.length && wanted.every((key) => given.includes(key));
    }),
  text: string()
    .required('a comment needs a text')
    .matches(/\S/, 'a comment needs a text')
    .max(4000, 'the comment is longer than 4000 characters'),
  author: string().defined().max(120),
  answers: string().max(80).nullable(),
});

/** `keep`: nets that have a pad stay there. `apply`: what is found is stored. */
export const placeForm = object({ keep: boolean(), apply: boolean(), author: string().max(120) });

export const presenceForm = object({
  client: string().required().max(80),
  author: string().defined().max(120),
  selection: string().defined().max(400),
  view: string().defined().max(40),
  left: boolean().required(),
});

const names = array(string().required().max(120)).required().max(1000);

export const familyForm = object({
  plans: array(string().required().max(80)).required().max(100),
  circuits: names,
});

export const takeForm = object({
  from: id,
  circuit: string().required().max(120),
  net: string().required().max(120),
  field: string().max(80),
  author: string().defined().max(120),
});

export const resolveForm = object({ resolved: boolean().required(), author: string().defined().max(120) });

export const verdictForm = object({
  revision: string().required().max(80),
  circuit: string().defined().max(80),
  verdict: string().oneOf(VERDICTS).required(),
  note: string().defined().max(4000, 'the note is longer than 4000 characters'),
  author: string().defined().max(120),
});

export const checkCodeForm = object({ target: id, at: number().integer().min(0) });

export const partForm = object({
  fileName: string().required().max(300),
  text: string()
    .defined()
    .max(LIMITS.deviceBytes, `the description ${tooLarge('deviceBytes')}`),
  expected: number().required().integer().min(0),
});

const datum = string().max(4000).nullable().defined();

export const correctionsForm = object({
  expected: number().required().integer().min(0),
  corrections: array(
    object({
      id,
      what: array(string().required().max(120)).required().min(2).max(4),
      from: datum,
      to: datum,
      why: string().required('a correction needs a reason').max(1000),
      who: string().defined().max(120),
      when: string().required().max(40),
    }).noUnknown(),
  )
    .required()
    .max(2000),
});

export const mappingForm = object({
  signature: string().required().max(2100),
  mapping: object({
    headerRow: number().required().integer().min(-1).max(100_000),
    headerRows: number().integer().min(1).max(20),
    roles: array(string().required().max(200)).required().max(300),
    padName: string().oneOf(PAD_NAMES),
  }).noUnknown(),
});

const email = string()
  .required('an address is needed')
  .max(254, 'the address is longer than 254 characters')
  .matches(/^[^\s@"<>]+@[^\s@"<>]+\.[^\s@"<>]+$/, 'that is no e-mail address');
const password = string()
  .required('a password is needed')
  .max(1000, 'the password is longer than 1000 characters');
const role = string().oneOf(ROLES).required();

export const signInForm = object({ email: string().required().max(254), password });

export const joinForm = object({ key: string().required().max(100), name: nameOf('person'), password });
export const joinHereForm = object({ key: string().required().max(100) });

export const personForm = object({ name: nameOf('person') });
export const passwordForm = object({ now: string().defined().max(1000), next: password });
export const tokenForm = object({
  name: nameOf('token'),
  scope: string().oneOf(SCOPES).required(),
  days: number().required().integer().min(1).max(366, 'a token is good for 366 days at most'),
});
export const workspaceForm = object({ name: nameOf('workspace') });
export const enterForm = object({ workspace: id });
export const invitationForm = object({ email, role });
export const roleForm = object({ role });

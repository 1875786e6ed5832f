import type { Derived } from '../../derive/derive';
import { notCovered } from '../../derive/simulate/not-covered';
import { missingNets } from './missing';
import type { InterruptLine } from './program/types';

/** Statements that are listed in the head of a file; how many more there are is said. */
const MOST_UNCONFIRMED = 12;

/** Exactly what was shown, and from which states: no more than that is claimed. */
function provenLines(derived: Derived): string[] {
  const { proof, accessors, device } = derived;
  const from =
    proof.start === 'reset'
      ? 'from reset'
      : 'from every state of the chip, all other bits staying as they were';
  const proven = accessors.list.filter((one) => one.fault === undefined).length;
  const { unconfirmed = [] } = device.description;
  return [
    `proven    ${proof.proven} of ${proof.pins} pins end as planned, ${from};`,
    `          ${proven} of ${accessors.list.length} accessors do what they say, in every state after that`,
    ...notCoveredLines(derived),
    ...(unconfirmed.length > 0
      ? [
          `NOT CONFIRMED: ${unconfirmed.length} statements about the registers were proposed and not compared with the document;`,
          '          what is proven holds only if they are right:',
          ...unconfirmed.slice(0, MOST_UNCONFIRMED).map((one) => `          ${one.says}`),
          ...(unconfirmed.length > MOST_UNCONFIRMED
            ? [`          and ${unconfirmed.length - MOST_UNCONFIRMED} more`]
            : []),
        ]
      : []),
  ];
}

/** What the line before does not cover, or that there is no such thing but the description itself. */
function notCoveredLines({ device, planned, lowered, proof, accessors }: Derived): string[] {
  if (proof.pins === 0) return [];
  const list = notCovered(device, planned, lowered, accessors.absent);
  return [
    'not covered: that the description of the part is true;',
    ...list.slice(0, MOST_UNCONFIRMED).map(({ text }) => `          ${text};`),
    ...(list.length > MOST_UNCONFIRMED ? [`          and ${list.length - MOST_UNCONFIRMED} more`] : []),
    ...(list.length === 0 ? ['          of what it says, nothing is left out'] : []),
  ];
}

/** The lines that say which plan a file is of, so that nobody flashes the wrong one. */
export function identityLines(derived: Derived, file: string, about: string): string[] {
  const { plan, device, pkg } = derived;
  return [
    `${file}: ${about}`,
    '',
    `plan      ${plan.name}, revision ${plan.revision}`,
    `part      ${device.description.name} (${device.description.id}), description ${device.fingerprint}`,
    `package   ${pkg.name} (${pkg.id})`,
    `content   ${derived.fingerprint}`,
    ...provenLines(derived),
    ...(derived.counts.error > 0
      ? [`WARNING   the plan has ${derived.counts.error} unresolved errors; do not ship this`]
      : []),
    '',
    'Made by Mavrek. Change the plan and generate again; changes made here are lost.',
  ];
}

/** The nets that are not in the code, and why; and what the compiler is to say where the plan refuses to be incomplete. */
export function missingText(derived: Derived): { lines: string[]; refusal?: string } | undefined {
  const missing = missingNets(derived);
  if (missing.length === 0) return undefined;
  const all = derived.plan.nets.length;
  const count = `${missing.length} of ${all} ${all > 1 ? 'nets' : 'net'}`;
  const refuse = derived.plan.code.incomplete === 'refuse';
  return {
    lines: [
      `Not in this code: ${count} of the plan:`,
      ...missing.map(({ name, why }) => `  ${name}: ${why}`),
    ],
    ...(refuse
      ? { refusal: `the plan is incomplete: ${count} not in this code, ${missing[0]?.name} first` }
      : {}),
  };
}

export const styleWords = (derived: Derived): string =>
  derived.plan.code.style === 'from-reset'
    ? 'initialisation from reset (whole registers are written)'
    : 'initialisation (only planned bits are changed)';

export const initialisationWords = (derived: Derived): string =>
  `${styleWords(derived)} for ${derived.proof.pins} pins`;

/** What every language says of the hooks around accessors that are not one access. */
export const TORN_WORDS =
  'Some accessors are not one access: they read a register and write it back, or open a lock and close it.';

/** What is said of a line before it. */
export const lineWords = ({ id, nets }: InterruptLine): string => {
  const names = nets.map(({ name }) => name);
  const untold = nets.length > 1 && nets.some(({ pending }) => !pending);
  return `To be called by the interrupt ${id}: ${names.join(', ')}.${untold ? ' The part does not show which of them it is: all their handlers are called.' : ''}`;
};

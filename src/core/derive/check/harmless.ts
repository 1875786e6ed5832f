import type { Finding } from '../rules/types';

/** Whether a finding is an error that stands. That a net has no pad is not counted: it is what taking it off its pad says. */
export const isStandingError = ({ severity, waived, rule }: Finding): boolean =>
  severity === 'error' && waived === undefined && rule !== 'unplaced';

/** What is wrong with which nets, wherever these are; with none, with which pads. */
export const errorKey = ({ rule, about = '', nets, pads }: Finding): string =>
  `${rule} ${about} ${[...(nets.length > 0 ? nets : pads)].sort().join(' ')}`;

/** The errors that stand, by their keys. */
export const errorKeys = (findings: readonly Finding[]): Set<string> =>
  new Set(findings.filter(isStandingError).map(errorKey));

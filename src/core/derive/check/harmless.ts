import type { Finding } from '../rules/types';

/** Errors that stand, by what is wrong with which nets, wherever these are; of no net, by the pads. */
export const errorKeys = (findings: readonly Finding[]): Set<string> =>
  new Set(
    findings.flatMap(({ severity, waived, rule, about = '', nets, pads }) =>
      // That a net is taken off its pad is what such a remedy says.
      severity !== 'error' || waived !== undefined || rule === 'unplaced'
        ? []
        : [`${rule} ${about} ${[...(nets.length > 0 ? nets : pads)].sort().join(' ')}`],
    ),
  );

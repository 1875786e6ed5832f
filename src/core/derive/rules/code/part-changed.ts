import type { Rule } from '../types';

export const partChanged: Rule = {
  meta: {
    id: 'part-changed',
    severity: 'warning',
    title: 'Made against another description of the part',
    means:
      'The plan records which description of its part it was made against, and that is not the one it is worked out with here: the part was corrected or imported again since, or the plan comes from where the part is described otherwise. Pads, functions and registers may differ.',
    fix: 'Compare the two descriptions where both are known; then take over the one that is here, or bring the one the plan was made against.',
  },
  per: 'plan',
  check({ plan, device }) {
    const { deviceFingerprint } = plan;
    if (deviceFingerprint === '' || deviceFingerprint === device.fingerprint) return [];
    return [
      {
        message: `The plan was made against description \`${deviceFingerprint}\` of ${device.description.name}; the one here is \`${device.fingerprint}\`.`,
        pads: [],
        nets: [],
        remedies: () => [
          {
            label: 'take over the description here',
            edit: {
              kind: 'plan.set',
              field: 'deviceFingerprint',
              from: deviceFingerprint,
              to: device.fingerprint,
            },
          },
        ],
      },
    ];
  },
};

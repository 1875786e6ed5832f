import { frostGuard } from '@/testing/frost-guard';
import { type Case, input, one, waiver } from '@/testing/rules';

export const UNUSED_CASES: Record<string, Case[]> = {
  'unused-not-here': [
    { name: 'no policy', plan: one('B7', {}), messages: [] },
    {
      name: 'inputs with a pull',
      plan: one(
        'D11',
        { role: input, demands: { farPull: 'driven' } },
        { tables: { unused: { '*': 'input-pulled' } } },
      ),
      messages: [],
    },
    {
      name: 'analog on pads without a switch',
      plan: one('B7', {}, { tables: { unused: { '*': 'analog' } } }),
      messages: [
        /`B6`, .* and 14 more, unused, cannot be analog, digital stages off: 5 V/,
        /`D11`, unused, cannot be analog/,
      ],
      remedies: [['leave them as at reset'], ['leave it as at reset']],
    },
    {
      name: 'a policy of its own',
      plan: one('B7', {}, { tables: { unused: { D11: 'output-low' } } }),
      messages: [/`D11`, unused, cannot be output, low: note 5/],
      remedies: [['leave it as at reset']],
    },
  ],
  'circuit-twice': [
    { name: 'the demo', plan: frostGuard(), messages: [] },
    {
      name: 'two boards',
      plan: {
        ...one('B7', {}),
        circuits: [
          { id: 'board', name: 'Board' },
          { id: 'b', name: 'board' },
        ],
      },
      messages: [/Two circuits are called `board`/],
      remedies: [['rename one to board 2']],
    },
  ],
  'stale-waiver': [
    { name: 'covers something', plan: one('B7', { role: input }, { waivers: [waiver()] }), messages: [] },
    {
      name: 'covers nothing',
      plan: one('B7', { role: input, settings: { pull: 'up' } }, { waivers: [waiver()] }),
      messages: [/The waiver of floating-input for `X`, from 2026-11-20, covers nothing any more/],
      remedies: [['take the waiver back']],
    },
    {
      name: 'of another rule',
      plan: one('B7', { role: input }, { waivers: [waiver({ rule: 'two-nets' })] }),
      messages: [/The waiver of two-nets/],
      remedies: [['take the waiver back']],
    },
  ],
};

import { canonicalJson } from '../../base/fingerprint';
import { ok } from '../../base/result';
import { planRef } from '../model/schema-parts';
import type { Schematic } from '../model/types';
import { change, changedMeanwhile, type EditKind, shape, unsigned } from './kind';

/** Takes in the netlist that the schematic gave, another one, or none. */
export interface SchematicSetEdit {
  kind: 'schematic.set';
  from: Schematic | null;
  to: Schematic | null;
}

export const schematicSet: EditKind<SchematicSetEdit> = {
  signs: unsigned,
  apply(plan, { from, to }) {
    const now = plan.schematic ?? null;
    if (canonicalJson(now) !== canonicalJson(from))
      return changedMeanwhile('the plan', 'the netlist', now ? now.file : 'none');
    const { schematic: _old, ...rest } = plan;
    return ok(to === null ? rest : { ...rest, schematic: to });
  },
  again: (plan, edit) => ({ ...edit, from: plan.schematic ?? null }),
  invert: (edit) => ({ ...edit, from: edit.to, to: edit.from }),
  describe: ({ to }) => (to ? `take in the netlist ${to.file}` : 'drop the netlist'),
  schemas: shape('schematic.set', change(planRef('schematic'))),
};

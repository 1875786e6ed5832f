'use client';

import { useRef } from 'react';
import { ohmsText, voltsText } from '@/core/derive/electrical/limits';
import { setFar } from '@/core/plan/edits/make-edits';
import { labelOf, setLabelOf } from '@/core/plan/labels';
import type { FarEnd } from '@/core/plan/model/types';
import { TextField } from '../inspector/text-field';
import { circuitColour } from '../parts/circuit-colour';
import { TableHead } from '../parts/table-head';
import { standsFor, useInSight } from '../parts/use-in-sight';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { SaveProfile } from './save-profile';
import { SchematicSection } from './schematic-section';
import { SectionHeading } from './section-heading';

/** What lies beyond the pads: far ends, connectors and labels; the schematic's netlist beside the plan. */
export function BoardView() {
  const { planId, at } = useActions();
  const then = at === undefined ? '' : `&at=${at}`;
  return (
    <div className="pane-area h-full px-5 py-3">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 className="text-[15px] font-semibold">Board</h2>
        <span className="ml-auto flex flex-wrap items-baseline gap-2">
          <span className="text-soft">Pin schedule:</span>
          <a className="link" href={`/plans/${planId}/schedule${at === undefined ? '' : `?at=${at}`}`}>
            to print
          </a>
          <a className="link" href={`/api/plans/${planId}/schedule?as=csv${then}`} download>
            CSV
          </a>
          <a className="link" href={`/api/plans/${planId}/schedule?as=md${then}`} download>
            Markdown
          </a>
          <a className="link" href={`/api/plans/${planId}/schedule?as=svg${then}`} download>
            drawing (SVG)
          </a>
        </span>
      </div>
      <SchematicSection />
      <FarEnds />
      <SaveProfile />
    </div>
  );
}

const FAR_FIELDS: readonly { key: keyof FarEnd; title: string }[] = [
  { key: 'part', title: 'part' },
  { key: 'connector', title: 'connector' },
];

/** What each placed net leads to, and what the board prints beside its pad; edited in place. */
function FarEnds() {
  const { derived } = useDerived();
  const { selection } = useSelection();
  const { dispatch, select } = useActions();
  const { plan } = derived;
  const rows = plan.circuits.flatMap((circuit) => plan.nets.filter((net) => net.circuit === circuit.id));
  const table = useRef<HTMLTableElement>(null);
  useInSight(table, standsFor('net', selection?.kind === 'net' ? selection.id : undefined));
  if (rows.length === 0) return null;
  return (
    <>
      <SectionHeading title="Far ends">
        <span className="text-soft">labels can be searched for, like names</span>
      </SectionHeading>
      <table ref={table} className="w-full border-collapse">
        <TableHead columns={['net', 'pad', 'pin', 'part', 'connector', 'label', 'far end']} />
        <tbody>
          {rows.map((net) => {
            const one = derived.byNet.get(net.id);
            const pad = net.placement?.pad;
            const chosen = selection?.kind === 'net' && selection.id === net.id;
            return (
              <tr
                key={net.id}
                data-net={net.id}
                className={`border-t border-rule align-baseline ${chosen ? 'bg-pickbg' : ''}`}
              >
                <td className="pr-3">
                  <span className="flex items-baseline gap-1.5">
                    <i className="block h-2.5 w-1" style={{ background: circuitColour(plan, net.circuit) }} />
                    <button
                      type="button"
                      className="min-h-6 font-medium hover:underline"
                      onClick={() => select({ kind: 'net', id: net.id })}
                    >
                      {net.name}
                    </button>
                  </span>
                </td>
                <td className="m pr-3">{pad ?? '–'}</td>
                <td className="m pr-3 text-soft">{one?.pins.join(' ')}</td>
                {FAR_FIELDS.map(({ key, title }) => (
                  <td key={key} className="pr-2">
                    <TextField
                      label={`${title} of ${net.name}`}
                      value={net.far?.[key] ?? ''}
                      placeholder="–"
                      maxLength={120}
                      className="w-full min-w-16 border-transparent bg-transparent px-1 py-0 hover:border-rule"
                      onCommit={(text) =>
                        dispatch(setFar(net, { ...net.far, [key]: text === '' ? undefined : text }))
                      }
                    />
                  </td>
                ))}
                <td className="pr-2">
                  {
                    <TextField
                      label={pad === undefined ? `label of ${net.name}` : `label beside ${pad}`}
                      value={labelOf(plan, net)}
                      placeholder="–"
                      maxLength={40}
                      className="m w-20 border-transparent bg-transparent px-1 py-0 hover:border-rule"
                      onCommit={(text) => dispatch(setLabelOf(plan, net, text))}
                    />
                  }
                </td>
                <td className="whitespace-nowrap text-soft">{farWords(net.demands)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

function farWords(
  demands: { farVolts?: number; farPull?: string; farPullOhms?: number } | undefined,
): string {
  if (!demands) return '';
  const parts = [];
  if (demands.farVolts !== undefined) parts.push(`up to ${voltsText(demands.farVolts)}`);
  if (demands.farPull === 'driven') parts.push('drives it');
  else if (demands.farPull !== undefined)
    parts.push(
      `pulls ${demands.farPull}${demands.farPullOhms ? ` with ${ohmsText(demands.farPullOhms)}` : ''}`,
    );
  return parts.join(', ');
}

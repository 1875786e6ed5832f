'use client';

import { type ReactNode, useMemo, useRef, useState } from 'react';
import { LIMITS, tooLarge } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import { crossCheck, type Difference } from '@/core/derive/board/cross-check';
import { ohmsText, voltsText } from '@/core/derive/electrical/limits';
import { likelyParts, type Netlist } from '@/core/import/netlist/read-netlist';
import type { Edit } from '@/core/plan/edits/edits';
import { setFar } from '@/core/plan/edits/make-edits';
import { labelOf, setLabelOf } from '@/core/plan/labels';
import type { FarEnd, Schematic } from '@/core/plan/model/types';
import { readNetlistText } from '../client/import-worker';
import { TextField } from '../inspector/text-field';
import { circuitColour } from '../parts/circuit-colour';
import { useReading } from '../parts/reading';
import { TableHead } from '../parts/table-head';
import { standsFor, useInSight } from '../parts/use-in-sight';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { SaveProfile } from './save-profile';

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

function Heading({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mb-1 mt-4 flex flex-wrap items-baseline gap-3 border-b border-ink pb-0.5">
      <h3 className="font-semibold">{title}</h3>
      {children}
    </div>
  );
}

/** The netlist, and where it and the plan do not agree. */
function SchematicSection() {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan } = derived;
  const [reading, setReading] = useState<Netlist | null>(null);
  const { watch, notice } = useReading();
  const [problems, setProblems] = useState<Problem[]>([]);
  const differences = useMemo(() => crossCheck(derived), [derived]);

  async function read(file: File | undefined) {
    if (!file) return;
    if (file.size > LIMITS.netlistBytes) {
      setProblems([{ place: file.name, message: tooLarge('netlistBytes') }]);
      return;
    }
    const netlist = await watch(file.name, readNetlistText(file.name, await file.text()));
    setProblems(netlist.ok ? [] : [...netlist.problems]);
    if (!netlist.ok) return;
    const [best, second] = likelyParts(netlist.value, derived.pkg);
    if (!best) setProblems([{ place: file.name, message: `names no part with pins of ${derived.pkg.name}` }]);
    // One part alone can be meant: nothing to ask.
    else if (!second || (best.strange === 0 && second.known < best.known / 4))
      take(netlist.value, best.designator);
    else setReading(netlist.value);
  }

  function take(netlist: Netlist, designator: string) {
    const pins = (netlist.parts.get(designator) ?? []).filter((pin) =>
      Object.hasOwn(derived.pkg.pins, pin.pin),
    );
    const to: Schematic = { file: netlist.file, designator, pins };
    dispatch({ kind: 'schematic.set', from: plan.schematic ?? null, to });
    setReading(null);
  }

  const all = differences.flatMap((one) => one.followNetlist.slice(0, 1));
  return (
    <>
      <Heading title="Schematic">
        {plan.schematic ? (
          <span className="text-soft">
            {plan.schematic.file}, {plan.schematic.designator}, {plan.schematic.pins.length} pins
          </span>
        ) : (
          <span className="text-soft">no netlist yet</span>
        )}
        <span className="ml-auto flex gap-3">
          <label className="link cursor-pointer focus-within:outline-2 focus-within:outline-pick">
            {plan.schematic ? 'read it again' : 'read a netlist'}
            <input
              type="file"
              className="sr-only"
              accept=".ipc,.356,.d356,.net,.csv,.tsv,.txt"
              onChange={(event) => {
                void read(event.target.files?.[0]);
                event.target.value = '';
              }}
            />
          </label>
          {plan.schematic && (
            <button
              type="button"
              className="link"
              onClick={() => dispatch({ kind: 'schematic.set', from: plan.schematic ?? null, to: null })}
            >
              forget it
            </button>
          )}
        </span>
      </Heading>
      {notice}
      {problems.length > 0 && (
        <div role="alert" className="text-err">
          {problems.map((problem) => (
            <p key={`${problem.place} ${problem.message}`}>
              {problem.place}: {problem.message}
            </p>
          ))}
        </div>
      )}
      {reading && (
        <div className="my-1 flex flex-wrap items-baseline gap-2">
          <span>Which part of {reading.file} is it?</span>
          {likelyParts(reading, derived.pkg)
            .slice(0, 8)
            .map(({ designator, known, strange }) => (
              <button
                key={designator}
                type="button"
                className="button"
                onClick={() => take(reading, designator)}
              >
                {designator}{' '}
                <span className="text-soft">
                  {known} pins{strange > 0 ? `, ${strange} strange` : ''}
                </span>
              </button>
            ))}
        </div>
      )}
      {!plan.schematic && !reading && (
        <p className="max-w-prose text-soft">
          Read the netlist that the schematic gives (IPC-D-356, or a table of net, part and pin), and each pin
          on which it and the plan do not agree is listed here and among the findings.
        </p>
      )}
      {plan.schematic && differences.length === 0 && <p>Schematic and plan agree on every pin.</p>}
      {differences.length > 0 && (
        <>
          <DifferenceTable differences={differences} dispatch={dispatch} />
          {all.length > 1 && (
            <button type="button" className="button mt-1.5" onClick={() => dispatch(followAll(derived, all))}>
              Follow the netlist in all {all.length}
            </button>
          )}
        </>
      )}
    </>
  );
}

/** One after the other: what the first step settles, later steps find settled. */
function followAll(derived: Parameters<typeof crossCheck>[0], steps: Difference['followNetlist']): Edit {
  const seen = new Set<string>();
  const edits: Edit[] = [];
  for (const { edit } of steps) {
    for (const one of edit.kind === 'batch' ? edit.edits : [edit]) {
      const key = one.kind === 'net.set' ? `${one.id} ${one.field}` : '';
      if (key !== '' && seen.has(key)) continue;
      seen.add(key);
      edits.push(one);
    }
  }
  return { kind: 'batch', label: `follow ${derived.plan.schematic?.file ?? 'the netlist'}`, edits };
}

function DifferenceTable({
  differences,
  dispatch,
}: {
  differences: readonly Difference[];
  dispatch: (edit: Edit) => boolean;
}) {
  const { derived } = useDerived();
  const { select } = useActions();
  return (
    <table className="w-full border-collapse">
      <TableHead
        columns={['pin', 'pad', 'schematic', 'plan', 'let the plan follow', 'let the schematic follow']}
      />
      <tbody>
        {differences.map((one) => (
          <tr key={one.pin} className="border-t border-rule align-baseline">
            <td className="m pr-3">
              {derived.plan.schematic?.designator}-{one.pin}
            </td>
            <td className="pr-3">
              <button
                type="button"
                className="m min-h-6 min-w-6 text-left hover:underline"
                onClick={() => select({ kind: 'pad', id: one.pad.id })}
              >
                {one.pad.id}
              </button>
            </td>
            <td className="pr-3 font-medium">
              {one.netlistNet ?? <span className="text-soft">nothing</span>}
            </td>
            <td className="pr-3 font-medium">
              {one.planned?.name ?? <span className="text-soft">nothing</span>}
            </td>
            <td className="pr-3">
              <Steps steps={one.followNetlist} dispatch={dispatch} />
            </td>
            <td>
              <Steps steps={one.followPlan} dispatch={dispatch} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Steps({ steps, dispatch }: { steps: Difference['followPlan']; dispatch: (edit: Edit) => boolean }) {
  if (steps.length === 0) return <span className="text-soft">the pad cannot carry it</span>;
  return steps.map(({ label, edit }) => (
    <button key={label} type="button" className="link mr-2 min-h-6 text-left" onClick={() => dispatch(edit)}>
      {label}
    </button>
  ));
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
      <Heading title="Far ends">
        <span className="text-soft">labels can be searched for, like names</span>
      </Heading>
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

'use client';

import { useId, useMemo, useState } from 'react';
import { LIMITS, tooLarge } from '@/core/base/limits';
import type { Problem } from '@/core/base/problems';
import { crossCheck, type Difference } from '@/core/derive/board/cross-check';
import { type SupplyFault, supplyFaults } from '@/core/derive/board/supply-pins';
import { likelyParts, type MatchedPart, matchPart, type Netlist } from '@/core/import/netlist/netlist';
import type { Edit } from '@/core/plan/edits/edits';
import type { Schematic } from '@/core/plan/model/types';
import { readNetlistText } from '../client/import-worker';
import { Message } from '../parts/message';
import { useReading } from '../parts/reading';
import { TableHead } from '../parts/table-head';
import { useActions, useDerived } from '../workspace/context';
import { SectionHeading } from './section-heading';

/** The netlist, and where it and the plan do not agree. */
export function SchematicSection() {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan, device, pkg } = derived;
  /** What was read last, so that another part of it can be taken. */
  const [netlist, setNetlist] = useState<Netlist | null>(null);
  const [choosing, setChoosing] = useState(false);
  const [unknown, setUnknown] = useState<readonly string[]>([]);
  const { watch, notice } = useReading();
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const differences = useMemo(() => crossCheck(derived), [derived]);
  const faults = useMemo(() => supplyFaults(derived), [derived]);

  async function read(file: File | undefined) {
    if (!file) return;
    if (file.size > LIMITS.netlistBytes) {
      setProblems([{ place: file.name, message: tooLarge('netlistBytes') }]);
      return;
    }
    const result = await watch(file.name, readNetlistText(file.name, await file.text()));
    setProblems(result.ok ? [] : result.problems);
    if (!result.ok) return;
    setNetlist(result.value);
    const [best, second] = likelyParts(result.value, device.description, pkg);
    // A part that is clearly meant is taken; it can be changed afterwards.
    if (
      best &&
      best.unknown.length === 0 &&
      (!second || second.pins.length < best.pins.length / 4 || second.unknown.length > second.pins.length)
    )
      take(result.value.file, best);
    else setChoosing(true);
  }

  function take(file: string, part: MatchedPart) {
    setProblems(part.problems.map((message) => ({ place: file, message })));
    if (part.problems.length > 0) return;
    const to: Schematic = { file, designator: part.designator, pins: part.pins };
    if (!dispatch({ kind: 'schematic.set', from: plan.schematic ?? null, to })) return;
    setUnknown(part.unknown);
    setChoosing(false);
  }

  const follow = differences.flatMap((difference) => difference.followNetlist.slice(0, 1));
  return (
    <>
      <SectionHeading title="Schematic">
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
              accept=".ipc,.356,.d356,.net,.edf,.edif,.edn,.xml,.csv,.tsv,.txt"
              onChange={(event) => {
                void read(event.target.files?.[0]);
                event.target.value = '';
              }}
            />
          </label>
          {netlist && !choosing && (
            <button type="button" className="link" onClick={() => setChoosing(true)}>
              choose another part
            </button>
          )}
          {plan.schematic && (
            <button
              type="button"
              className="link"
              onClick={() => {
                setUnknown([]);
                dispatch({ kind: 'schematic.set', from: plan.schematic ?? null, to: null });
              }}
            >
              forget it
            </button>
          )}
        </span>
      </SectionHeading>
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
      {netlist && choosing && (
        <PartChoice
          netlist={netlist}
          take={(part) => take(netlist.file, part)}
          giveUp={() => setChoosing(false)}
        />
      )}
      {plan.schematic && unknown.length > 0 && (
        <p role="status" className="text-warn">
          Not checked: {unknown.length === 1 ? 'one pin' : `${unknown.length} pins`} of{' '}
          {plan.schematic.designator} that {pkg.name} does not have: {unknown.slice(0, 12).join(', ')}
          {unknown.length > 12 ? ' …' : ''}.
        </p>
      )}
      {!plan.schematic && !choosing && (
        <p className="max-w-prose text-soft">
          Read the netlist that your schematic program writes: IPC-D-356, EDIF 2 0 0, an S-expression, XML, or
          a table of net, part and pin. Each pin on which it and the plan do not agree is listed here and
          among the findings; supply pins are checked too.
        </p>
      )}
      {plan.schematic && differences.length + faults.length === 0 && (
        <p>
          Schematic and plan agree on every I/O pin. No supply pin is open, shorted, or on a net whose name
          contradicts it.
        </p>
      )}
      {faults.length > 0 && <FaultTable faults={faults} dispatch={dispatch} />}
      {differences.length > 0 && (
        <>
          <DifferenceTable differences={differences} dispatch={dispatch} />
          {follow.length > 1 && (
            <button
              type="button"
              className="button mt-1.5"
              onClick={() => dispatch(followAll(plan.schematic?.file ?? 'the netlist', follow))}
            >
              Follow the netlist in all {follow.length}
            </button>
          )}
        </>
      )}
    </>
  );
}

/** Which part of a netlist is the planned one: the likely ones as buttons, any other by its reference. */
function PartChoice({
  netlist,
  take,
  giveUp,
}: {
  netlist: Netlist;
  take: (part: MatchedPart) => void;
  giveUp: () => void;
}) {
  const { derived } = useDerived();
  const { device, pkg } = derived;
  const [reference, setReference] = useState('');
  const id = useId();
  const likely = useMemo(() => likelyParts(netlist, device.description, pkg), [netlist, device, pkg]);
  const wanted = [...netlist.parts.keys()].find(
    (designator) => designator.toUpperCase() === reference.trim().toUpperCase(),
  );
  const part = wanted === undefined ? undefined : matchPart(netlist, wanted, device.description, pkg);
  return (
    <form
      className="my-1 flex flex-wrap items-baseline gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (part && part.pins.length > 0) take(part);
      }}
    >
      <span>
        Which of the {netlist.parts.size} parts in {netlist.file} is {device.description.name}?
      </span>
      {likely.slice(0, 8).map((each) => (
        <button key={each.designator} type="button" className="button" onClick={() => take(each)}>
          {each.designator} <span className="text-soft">{pinCounts(each)}</span>
        </button>
      ))}
      <label htmlFor={id}>or by reference</label>
      <input
        id={id}
        className="w-28"
        list={`${id}-all`}
        value={reference}
        placeholder="U1"
        onChange={(event) => setReference(event.target.value)}
      />
      <datalist id={`${id}-all`}>
        {[...netlist.parts.keys()].slice(0, 2_000).map((designator) => (
          <option key={designator} value={designator} />
        ))}
      </datalist>
      <button type="submit" className="button" disabled={!part || part.pins.length === 0}>
        Take it
      </button>
      <span role="status" className="text-soft">
        {reference.trim() === ''
          ? ''
          : part
            ? pinCounts(part)
            : `no part of that reference in ${netlist.file}`}
      </span>
      <button type="button" className="link" onClick={giveUp}>
        none of them
      </button>
    </form>
  );
}

const pinCounts = ({ pins, unknown }: MatchedPart): string =>
  `${pins.length} connected pins of the package${unknown.length > 0 ? `, ${unknown.length} that it does not have` : ''}`;

/** The edits one after the other; of several that set the same field of a net, the first. */
function followAll(file: string, steps: Difference['followNetlist']): Edit {
  const seen = new Set<string>();
  const edits: Edit[] = [];
  for (const { edit } of steps) {
    for (const single of edit.kind === 'batch' ? edit.edits : [edit]) {
      const key = single.kind === 'net.set' ? `${single.id} ${single.field}` : '';
      if (key !== '' && seen.has(key)) continue;
      seen.add(key);
      edits.push(single);
    }
  }
  return { kind: 'batch', label: `follow ${file}`, edits };
}

function FaultTable({
  faults,
  dispatch,
}: {
  faults: readonly SupplyFault[];
  dispatch: (edit: Edit) => boolean;
}) {
  return (
    <table className="mb-3 w-full border-collapse">
      <TableHead columns={['supplies, and pins to be left open', 'what the schematic is to change']} />
      <tbody>
        {faults.map((fault) => (
          <tr key={`${fault.kind} ${fault.pins.join(' ')}`} className="border-t border-rule align-baseline">
            <td className="pr-3">
              <Message text={fault.message} />
            </td>
            <td>
              <Steps steps={fault.remedies} none="to be seen in the schematic" dispatch={dispatch} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
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
        {differences.map((difference) => (
          <tr key={difference.pin} className="border-t border-rule align-baseline">
            <td className="m pr-3">
              {derived.plan.schematic?.designator}-{difference.pin}
            </td>
            <td className="pr-3">
              <button
                type="button"
                className="m min-h-6 min-w-6 text-left hover:underline"
                onClick={() => select({ kind: 'pad', id: difference.pad.id })}
              >
                {difference.pad.id}
              </button>
            </td>
            <td className="pr-3 font-medium">
              {difference.netlistNet ?? <span className="text-soft">nothing</span>}
            </td>
            <td className="pr-3 font-medium">
              {difference.planned?.name ?? <span className="text-soft">nothing</span>}
            </td>
            <td className="pr-3">
              <Steps steps={difference.followNetlist} none="the pad cannot carry it" dispatch={dispatch} />
            </td>
            <td>
              <Steps steps={difference.followPlan} none="" dispatch={dispatch} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Steps({
  steps,
  none,
  dispatch,
}: {
  steps: Difference['followPlan'];
  none: string;
  dispatch: (edit: Edit) => boolean;
}) {
  if (steps.length === 0) return <span className="text-soft">{none}</span>;
  return steps.map(({ label, edit }) => (
    <button key={label} type="button" className="link mr-2 min-h-6 text-left" onClick={() => dispatch(edit)}>
      {label}
    </button>
  ));
}

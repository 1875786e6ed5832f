'use client';

import { Dialog } from 'radix-ui';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Device } from '@/core/device/device';
import type { PartSummary } from '@/core/device/part-facts';
import { CARRY_BY, type CarryBy, type CarryRow, previewChange } from '@/core/part-change/change-part';
import { api } from '../client/api';
import { openPart } from '../client/parts';
import { ScrollRegion } from '../parts/scroll-region';
import { Segments } from '../parts/segments';
import { useActions, useDerived } from '../workspace/context';

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** Another package, or another part: what stays, moves and breaks, before it is done in one step. */
export function ChangePartDialog({ open, onOpenChange }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-shade" />
        <Dialog.Content
          className="dialog !top-[6vh] !max-h-[88vh] !w-[min(820px,calc(100vw-32px))]"
          aria-describedby={undefined}
        >
          <Dialog.Title className="mb-3 text-lg font-semibold">Change package or part</Dialog.Title>
          {open && <ChangePart onDone={() => onOpenChange(false)} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function ChangePart({ onDone }: { onDone: () => void }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan, device } = derived;
  const [parts, setParts] = useState<PartSummary[]>([]);
  const [target, setTarget] = useState<Device>(device);
  // What was chosen; it becomes the target when its description is here.
  const [wanted, setWanted] = useState(plan.device);
  const newest = useRef(wanted);
  const others = device.description.packages.filter((one) => one.id !== plan.package);
  const [pkg, setPkg] = useState(others[0]?.id ?? plan.package);
  const [by, setBy] = useState<CarryBy>('pad');
  const [problem, setProblem] = useState('');

  useEffect(() => {
    void api.parts().then((answer) => {
      if (answer.ok) setParts(answer.value.devices);
      else setProblem(answer.problems[0]?.message ?? '');
    });
  }, []);

  async function choosePart(id: string) {
    newest.current = id;
    setWanted(id);
    const part = await openPart(id, id === plan.device ? plan.deviceFingerprint : '');
    if (newest.current !== id) return;
    if (!part.ok) {
      setProblem(part.message);
      setWanted(target.description.id);
      return;
    }
    setProblem('');
    setTarget(part.device);
    const packages = part.device.description.packages;
    // Another part is most often looked at in the same package; the same part, in another one.
    const fresh = packages.find((one) => (one.id === plan.package) === (id !== plan.device)) ?? packages[0];
    setPkg(fresh?.id ?? '');
    setBy(id === plan.device ? 'pad' : 'signal');
  }

  const preview = useMemo(
    () => previewChange(plan, device, target, pkg, by),
    [plan, device, target, pkg, by],
  );
  const same = target.description.id === plan.device && pkg === plan.package;
  const count = (outcome: CarryRow['outcome']): number =>
    preview?.rows.filter((row) => row.outcome === outcome).length ?? 0;

  return (
    <>
      <div className="grid grid-cols-[80px_1fr] items-baseline gap-x-3 gap-y-2">
        <label htmlFor="change-part" className="text-soft">
          Part
        </label>
        <select
          id="change-part"
          className="max-w-full"
          value={wanted}
          onChange={(event) => void choosePart(event.target.value)}
        >
          {(parts.length > 0 ? parts : [{ id: plan.device, name: device.description.name, summary: '' }]).map(
            (one) => (
              <option key={one.id} value={one.id}>
                {one.name}
                {one.id === plan.device ? ' (this part)' : ''}
              </option>
            ),
          )}
        </select>
        <span className="text-soft">Package</span>
        <Segments
          label="Package"
          value={pkg}
          choices={target.description.packages.map((one) => ({ value: one.id, label: one.name }))}
          onChange={setPkg}
        />
        <span className="text-soft">Carry over by</span>
        <span>
          <Segments
            label="Carry over by"
            value={by}
            choices={CARRY_BY.map(({ id, title }) => ({ value: id, label: title }))}
            onChange={(value) => setBy(value as CarryBy)}
          />
          <span className="ml-2 text-soft">{CARRY_BY.find((one) => one.id === by)?.text}</span>
        </span>
      </div>
      {problem !== '' && (
        <p role="alert" className="mt-2 text-err">
          {problem}
        </p>
      )}
      {preview && (
        <>
          <p className="mt-3" data-testid="carry-counts">
            <b className="font-semibold">{count('stays')}</b> stay,{' '}
            <b className="font-semibold">{count('moves')}</b> move,{' '}
            <b className={`font-semibold ${count('breaks') > 0 ? 'text-err' : ''}`}>{count('breaks')}</b>{' '}
            break
            {count('unplaced') > 0 && (
              <span className="text-soft">, {count('unplaced')} had no pad before</span>
            )}
            <span className="text-soft">
              {' '}
              · findings {preview.before.error} → {preview.after.error} errors, {preview.before.warning} →{' '}
              {preview.after.warning} warnings
            </span>
          </p>
          <CarryTable rows={preview.rows} />
        </>
      )}
      <div className="mt-4 flex items-center justify-end gap-2">
        <span className="mr-auto text-soft">One step, which undo takes back.</span>
        <Dialog.Close className="button">Cancel</Dialog.Close>
        <button
          type="button"
          className="button button-strong"
          disabled={!preview || same || wanted !== target.description.id}
          onClick={() => {
            if (preview && dispatch(preview.edit)) onDone();
          }}
        >
          Change
        </button>
      </div>
    </>
  );
}

const ORDER: CarryRow['outcome'][] = ['breaks', 'moves', 'stays', 'unplaced'];
const SIGNS: Record<CarryRow['outcome'], string> = { breaks: '╳', moves: '→', stays: '=', unplaced: '○' };

function CarryTable({ rows }: { rows: readonly CarryRow[] }) {
  const sorted = [...rows].sort((a, b) => ORDER.indexOf(a.outcome) - ORDER.indexOf(b.outcome));
  const place = (seat: CarryRow['from']): string =>
    seat ? `${seat.pad} · ${seat.pins.join(' ') || 'no pin'}` : '';
  return (
    <ScrollRegion label="What becomes of each net" className="mt-2 max-h-[44vh] border-y border-rule">
      <table className="w-full border-collapse">
        <thead className="sticky top-0 bg-sheet">
          <tr className="border-b border-ink text-left text-soft">
            <th className="py-0.5 pr-2 font-medium">Net</th>
            <th className="pr-2 font-medium">Pad · pin now</th>
            <th className="pr-2 font-medium">then</th>
            <th className="font-medium">Why</th>
          </tr>
        </thead>
        <tbody>
          {sorted.map((row) => (
            <tr key={row.net.id} className="border-b border-rule align-baseline">
              <td className="whitespace-nowrap py-0.5 pr-3 font-medium">{row.net.name}</td>
              <td className="m whitespace-nowrap pr-3">{place(row.from)}</td>
              <td className="whitespace-nowrap pr-3">
                <span className={`mr-1.5 ${row.outcome === 'breaks' ? 'text-err' : 'text-soft'}`}>
                  {SIGNS[row.outcome]} {row.outcome === 'unplaced' ? 'no pad' : row.outcome}
                </span>
                {row.outcome === 'moves' && <span className="m">{place(row.to)}</span>}
              </td>
              <td className="text-soft">{row.why.join('; ')}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </ScrollRegion>
  );
}

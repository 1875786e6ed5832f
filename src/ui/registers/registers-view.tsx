'use client';

import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { hasRecipe } from '@/core/description/recipe';
import { type LensRegister, lensRegisters } from '@/core/read-back/lens';
import { useLastExport } from '../code/use-last-export';
import { ScrollRegion } from '../parts/scroll-region';
import { Segments } from '../parts/segments';
import { useActions, useDerived, useSelection } from '../workspace/context';
import { findBits, type LensFilter, placeOfBits, shownRegisters } from './bits';
import { ReadBackPane } from './read-back-pane';
import { RegisterRow } from './register-row';
import { WholeRegister } from './whole-register';

/** Every register that the plan touches, bit by bit: whose each bit is, after reset and as planned. */
export function RegistersView() {
  const { derived } = useDerived();
  const { selection, selectedPad } = useSelection();
  const { select } = useActions();
  const [filter, setFilter] = useState<LensFilter>('all');
  const [group, setGroup] = useState('');
  const [circuit, setCircuit] = useState('');
  const [view, setView] = useState<'cpu' | 'document'>('cpu');
  const [reading, setReading] = useState(false);
  const exported = useLastExport()?.image;
  const rows = useMemo(() => lensRegisters(derived), [derived]);
  const shown = useMemo(
    () => shownRegisters(rows, { filter, group, circuit, exported }),
    [rows, filter, group, circuit, exported],
  );
  const selectedId = selection?.kind === 'bits' ? selection.id : undefined;
  const place = selectedId === undefined ? undefined : placeOfBits(selectedId);
  const found = selectedId === undefined ? undefined : findBits(rows, selectedId);
  const area = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const wanted =
      selectedId !== undefined
        ? `[data-register="${CSS.escape(placeOfBits(selectedId).name)}"]`
        : selectedPad !== undefined
          ? `[data-bits-of="${CSS.escape(selectedPad)}"]`
          : undefined;
    if (wanted) area.current?.querySelector(wanted)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [selectedId, selectedPad]);

  const { recipe } = derived.device.description;
  if (!hasRecipe(recipe)) {
    return (
      <p className="p-4 text-soft">
        This part has no recipe yet: its registers are not known. Attach them on the page of the part, under
        Recipe.
      </p>
    );
  }
  const documentViews = rows.some(({ register }) => register.documentAddress !== undefined);
  const groups = [...new Set(rows.map((row) => row.group))];
  const changed = rows.filter((row) => row.planned !== row.reset).length;
  const differing = shownRegisters(rows, { filter: 'exported', group: '', circuit: '', exported }).length;
  const first = shown[0];
  const tabRow = found && shown.includes(found.row) ? found.row : first;

  function walk(event: KeyboardEvent) {
    const id = (event.target as HTMLElement).closest<HTMLElement>('[data-bits]')?.dataset.bits;
    const next = id === undefined ? undefined : afterKey(event.key, shown, id);
    if (next === undefined) return;
    event.preventDefault();
    select({ kind: 'bits', id: next });
    area.current?.querySelector<HTMLElement>(`[data-bits="${CSS.escape(next)}"]`)?.focus();
  }

  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-3.5 py-1.5">
        <Segments
          label="Which registers"
          value={filter}
          choices={[
            { value: 'all', label: `touched ${rows.length}` },
            { value: 'changed', label: `changed from reset ${changed}` },
            {
              value: 'exported',
              label: exported ? `since the export ${differing}` : 'since the export',
              ...(exported ? {} : { lacking: 'nothing has been exported yet' }),
            },
          ]}
          onChange={(value) => setFilter(value as LensFilter)}
        />
        <select
          aria-label="Port or block"
          className="py-0"
          value={group}
          onChange={(event) => setGroup(event.target.value)}
        >
          <option value="">all blocks</option>
          {groups.map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
        <select
          aria-label="Circuit"
          className="py-0"
          value={circuit}
          onChange={(event) => setCircuit(event.target.value)}
        >
          <option value="">all circuits</option>
          {derived.plan.circuits.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        {documentViews && (
          <Segments
            label="Addresses"
            value={view}
            choices={[
              { value: 'cpu', label: recipe.addresses?.cpu ?? 'CPU' },
              { value: 'document', label: recipe.addresses?.document ?? 'document' },
            ]}
            onChange={(value) => setView(value as 'cpu' | 'document')}
          />
        )}
        <button
          type="button"
          className="button ml-auto"
          aria-expanded={reading}
          onClick={() => setReading(!reading)}
        >
          {reading ? 'Back to the registers' : 'Read back …'}
        </button>
      </div>
      {reading ? (
        <ReadBackPane addresses={documentViews ? view : 'cpu'} />
      ) : (
        <ScrollRegion label="Registers" className="min-h-0 flex-1">
          {shown.length === 0 ? (
            <p className="px-3.5 py-3 text-soft">
              {rows.length === 0
                ? 'The plan touches no register yet. Give a net a pad, and its bits are shown here.'
                : 'No register is left by these filters.'}
            </p>
          ) : (
            // biome-ignore lint/a11y/noStaticElementInteractions: keys for all the buttons in it
            <div ref={area} className="min-w-[740px]" onKeyDown={walk}>
              <ul aria-label="Registers bit by bit">
                {shown.map((row) => {
                  const own = place?.name === row.register.name;
                  const tab =
                    row !== tabRow ? undefined : found?.row === row && found.run ? found.run.low : -1;
                  return (
                    <li
                      key={row.register.name}
                      data-register={row.register.name}
                      className="border-b border-rule"
                    >
                      <RegisterRow
                        row={row}
                        plan={derived.plan}
                        address={
                          view === 'document'
                            ? (row.register.documentAddress ?? row.register.address)
                            : row.register.address
                        }
                        pad={selectedPad}
                        selected={own ? { ...(found?.run ? { run: found.run.low } : {}) } : undefined}
                        tab={tab}
                        onSelect={(id) => select({ kind: 'bits', id })}
                      />
                      {own && <WholeRegister key={row.register.name} row={row} />}
                    </li>
                  );
                })}
              </ul>
              <p className="px-3.5 py-2 text-soft">
                Upper edge: circuit. Tinted: differs from reset. Pale: not planned, stays as it was. Hatched:
                no pad’s, reserved or read only.
              </p>
            </div>
          )}
        </ScrollRegion>
      )}
    </div>
  );
}

/** Where a key leads from a run, or from the name of a register: sideways along its bits, up and down at the same bit. */
function afterKey(key: string, rows: readonly LensRegister[], id: string): string | undefined {
  const at = findBits(rows, id);
  if (!at) return undefined;
  const { row, run } = at;
  const name = row.register.name;
  const index = rows.indexOf(row);
  const runAt = run ? row.runs.indexOf(run) : -1;
  if (key === 'ArrowLeft' || key === 'ArrowRight') {
    const next = row.runs[runAt + (key === 'ArrowRight' ? 1 : -1)];
    return next ? `${name}:${next.low}` : runAt === 0 && key === 'ArrowLeft' ? name : undefined;
  }
  const step = key === 'ArrowDown' ? 1 : key === 'ArrowUp' ? -1 : 0;
  const to = step === 0 ? undefined : rows[index + step];
  if (!to) return undefined;
  const below = run && to.runs.find((one) => one.low <= run.low && run.low < one.low + one.bits);
  return below ? `${to.register.name}:${below.low}` : to.register.name;
}

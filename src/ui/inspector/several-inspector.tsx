'use client';

import { useState } from 'react';
import { settingKeysFor } from '@/core/derive/resolve/resolve';
import { titleOf } from '@/core/description/meanings';
import type { SettingKey } from '@/core/description/settings';
import { agreement } from '@/core/plan/agreement';
import {
  forAll,
  placeNet,
  removeNets,
  renameNet,
  setCircuit,
  setDemands,
  setFar,
  setRole,
  setSetting,
} from '@/core/plan/edits/make-edits';
import {
  type Demands,
  type Net,
  type NetSettingKey,
  PLAIN_ROLES,
  ROLE_TITLES,
} from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import { ConstraintButtons } from './constraints';
import { DemandRows, drivesPad, FarRow, isLine } from './demands-editor';
import { Row, Section } from './section';

/** Several nets at once: what they have in common, and changes to all of them. */
export function SeveralInspector({ nets }: { nets: readonly Net[] }) {
  const { derived } = useDerived();
  const { dispatch, select, mark } = useActions();
  const { plan, device } = derived;
  const count = `${nets.length} nets`;
  const keys = new Set<SettingKey>();
  for (const net of nets) {
    const resolved = derived.byNet.get(net.id);
    if (resolved) for (const key of settingKeysFor(device, resolved)) if (key !== 'level') keys.add(key);
  }
  const common = <T,>(of: (net: Net) => T): T | undefined => {
    const [first] = nets;
    return first && nets.every((net) => of(net) === of(first)) ? of(first) : undefined;
  };
  const placed = nets.filter((net) => net.placement);
  const locked = placed.length > 0 && placed.every((net) => net.placement?.locked);
  const MANY = 'differ';

  return (
    <>
      <h2 className="text-[17px] font-semibold">{count}</h2>
      <p className="text-soft">{nets.map((net) => net.name).join(', ')}</p>
      <Row label="circuit">
        <select
          aria-label="Circuit of all"
          className="w-full py-0"
          value={common((net) => net.circuit) ?? MANY}
          onChange={(event) =>
            dispatch(
              forAll(nets, `move ${count} to another circuit`, (net) => setCircuit(net, event.target.value)),
            )
          }
        >
          <option value={MANY} disabled>
            several
          </option>
          {plan.circuits.map((circuit) => (
            <option key={circuit.id} value={circuit.id}>
              {circuit.name}
            </option>
          ))}
        </select>
      </Row>
      <Row label="are">
        <select
          aria-label="What all are"
          className="w-full py-0"
          value={PLAIN_ROLES.find((role) => common((net) => net.role.kind) === role) ?? MANY}
          onChange={(event) => {
            const kind = PLAIN_ROLES.find((role) => role === event.target.value);
            if (kind)
              dispatch(forAll(nets, `make ${count} ${ROLE_TITLES[kind]}`, (net) => setRole(net, { kind })));
          }}
        >
          <option value={MANY} disabled>
            several, or lines of peripherals
          </option>
          {PLAIN_ROLES.map((role) => (
            <option key={role} value={role}>
              {ROLE_TITLES[role]}
            </option>
          ))}
        </select>
      </Row>
      <Row label="pads">
        <span className="flex flex-wrap gap-1">
          <span className="mr-auto">
            {placed.length} of {nets.length} placed
          </span>
          <button
            type="button"
            className="button px-1"
            disabled={placed.length === 0}
            onClick={() =>
              dispatch(
                forAll(placed, locked ? `unlock ${count}` : `lock ${count}`, (net) =>
                  net.placement && net.placement.locked === locked
                    ? placeNet(net, { ...net.placement, locked: !locked })
                    : undefined,
                ),
              )
            }
          >
            {locked ? 'unlock' : 'lock'}
          </button>
          <button
            type="button"
            className="button px-1"
            disabled={placed.length === 0}
            onClick={() =>
              dispatch(forAll(placed, `take ${count} off their pads`, (net) => placeNet(net, null)))
            }
          >
            clear
          </button>
        </span>
      </Row>
      <Section title="Settings of all">
        <BulkSelect
          label="asserted"
          value={common((net) => net.settings.active ?? 'high')}
          values={['high', 'low']}
          onChoose={(value) =>
            dispatch(
              forAll(nets, `assert ${count} ${value}`, (net) =>
                setSetting(net, 'active', value === 'high' ? null : value),
              ),
            )
          }
        />
        {[...keys].map((key) => {
          const name = key as NetSettingKey;
          return (
            <BulkSelect
              key={key}
              label={titleOf(device.description.recipe, key)}
              value={common((net) => net.settings[name] ?? '')}
              values={['', ...(device.description.recipe.settings[key] ?? [])]}
              onChoose={(value) =>
                dispatch(
                  forAll(nets, `set ${titleOf(device.description.recipe, key)} of ${count}`, (net) =>
                    setSetting(net, name, value === '' ? null : value),
                  ),
                )
              }
            />
          );
        })}
      </Section>
      <DemandsOfAll nets={nets} />
      <Section title="Shall all be">
        <ConstraintButtons nets={nets} />
      </Section>
      <RenameAll nets={nets} />
      <div className="mt-3 flex gap-2 border-t border-rule pt-2">
        <button type="button" className="button" onClick={() => mark([], 'only')}>
          Choose none
        </button>
        <button
          type="button"
          className="button"
          onClick={() => {
            if (dispatch(removeNets(plan, nets))) select(null);
          }}
        >
          Remove {count}
        </button>
      </div>
    </>
  );
}

/** What all of them demand; changing it changes that one thing of each. */
function DemandsOfAll({ nets }: { nets: readonly Net[] }) {
  const { dispatch } = useActions();
  const demands = agreement(nets.map((net) => net.demands ?? {}));
  const far = agreement(nets.map((net) => net.far ?? {}));
  const label = `change what ${nets.length} nets demand`;
  return (
    <Section title="What all demand">
      <DemandRows
        demands={demands.agreed}
        differ={demands.differ}
        drives={nets.every(drivesPad)}
        serial={nets.every(isLine)}
        set={(change) =>
          dispatch(forAll(nets, label, (net) => setDemands(net, { ...net.demands, ...change } as Demands)))
        }
      />
      <FarRow
        far={far.agreed}
        differ={far.differ}
        set={(change) =>
          dispatch(
            forAll(nets, `change where ${nets.length} nets go`, (net) =>
              setFar(net, { ...net.far, ...change }),
            ),
          )
        }
      />
    </Section>
  );
}

function BulkSelect({
  label,
  value,
  values,
  onChoose,
}: {
  label: string;
  value: string | undefined;
  values: readonly string[];
  onChoose: (value: string) => void;
}) {
  return (
    <Row label={label}>
      <select
        aria-label={`${label} of all`}
        className="py-0"
        value={value ?? '?'}
        onChange={(event) => onChoose(event.target.value)}
      >
        <option value="?" disabled>
          several
        </option>
        {values.map((one) => (
          <option key={one} value={one}>
            {one === '' ? 'the default' : one}
          </option>
        ))}
      </select>
    </Row>
  );
}

/** Replaces a part of all names; what would be named twice is refused. */
function RenameAll({ nets }: { nets: readonly Net[] }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const [from, setFrom] = useState('');
  const [to, setTo] = useState('');
  const renamed = from === '' ? [] : nets.filter((net) => net.name.includes(from));
  const nameOf = (net: Net): string => net.name.replaceAll(from, to.trim());
  const others = new Set(
    derived.plan.nets.filter((net) => !renamed.includes(net)).map((net) => net.name.toLowerCase()),
  );
  const clash = renamed.find((net) => others.has(nameOf(net).toLowerCase()) || nameOf(net).trim() === '');
  return (
    <Section title="Rename all">
      <form
        className="flex flex-wrap items-baseline gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          if (renamed.length === 0 || clash) return;
          if (
            dispatch(forAll(renamed, `rename ${renamed.length} nets`, (net) => renameNet(net, nameOf(net))))
          ) {
            setFrom('');
            setTo('');
          }
        }}
      >
        <input
          aria-label="Replace"
          placeholder="FAN"
          className="w-20"
          value={from}
          maxLength={120}
          onChange={(event) => setFrom(event.target.value)}
        />
        <span className="text-soft">becomes</span>
        <input
          aria-label="by"
          placeholder="BLOWER"
          className="w-20"
          value={to}
          maxLength={120}
          onChange={(event) => setTo(event.target.value)}
        />
        <button type="submit" className="button" disabled={renamed.length === 0 || clash !== undefined}>
          Rename {renamed.length > 0 ? renamed.length : ''}
        </button>
      </form>
      {clash && (
        <p className="text-err">{nameOf(clash) || 'An empty name'} cannot be: it is taken, or empty.</p>
      )}
    </Section>
  );
}

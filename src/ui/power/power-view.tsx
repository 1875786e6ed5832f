'use client';

import { useMemo } from 'react';
import { Bar, BarChart, Cell, LabelList, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { largest } from '@/core/base/lists';
import { currentText, ohmsText } from '@/core/derive/electrical/limits';
import { type Budget, budgetsOf, padLoads } from '@/core/derive/resolve/budget';
import { TableHead } from '../parts/table-head';
import { useActions, useDerived, useSelection } from '../workspace/context';

const WAY = { source: 'sourced', sink: 'sunk' } as const;

/** Current in the worst case: by supply, port and package against their limits, and who draws it. */
export function PowerView() {
  const { derived } = useDerived();
  const { mark } = useActions();
  const { device, pkg, resolved, plan } = derived;
  const loads = useMemo(() => padLoads(device, resolved), [device, resolved]);
  const budgets = useMemo(() => budgetsOf(device, pkg, loads), [device, pkg, loads]);
  const limited = budgets.filter((one) => one.kind !== 'port');
  const ports = budgets.filter((one) => one.kind === 'port');
  const silent = plan.nets.filter(
    (net) => net.placement && net.role.kind === 'output' && !loads.some(({ one }) => one.net.id === net.id),
  );
  return (
    <div className="pane-area h-full px-5 py-3">
      <h2 className="text-[15px] font-semibold">Current in the worst case</h2>
      <p className="mb-2 text-soft">
        All loads asserted at once. Loads come from what nets demand: a current, an LED with its resistor, a
        coil, or a pull-up at the far end.
        {silent.length > 0 && (
          <>
            {' '}
            <button
              type="button"
              className="link"
              title="Choose them, to say it of all at once"
              onClick={() =>
                mark(
                  silent.map((net) => net.id),
                  'only',
                )
              }
            >
              {silent.length === 1 ? '1 output' : `${silent.length} outputs`}
            </button>{' '}
            {silent.length === 1 ? 'says' : 'say'} nothing about a load.
          </>
        )}
      </p>
      {loads.length === 0 ? (
        <p className="max-w-prose">
          No net says what it draws yet. Select an output and choose a load under <em>What it demands</em>, or
          type <span className="m">lamp out low 8mA</span>.
        </p>
      ) : (
        <div className="grid gap-x-8 gap-y-5 @container xl:grid-cols-[1.3fr_1fr]">
          <section aria-label="Supplies and package">
            <h3 className="mb-1 font-semibold">Supplies and package</h3>
            <BudgetChart budgets={limited} />
            <BudgetTable budgets={limited} />
            {ports.length > 0 && (
              <>
                <h3 className="mb-1 mt-4 font-semibold">Ports</h3>
                <BudgetTable budgets={ports} />
              </>
            )}
          </section>
          <section aria-label="Consumers">
            <h3 className="mb-1 font-semibold">Who draws most</h3>
            <Consumers />
          </section>
        </div>
      )}
    </div>
  );
}

const nameOf = (budget: Budget): string =>
  `${budget.kind === 'package' ? 'package' : budget.kind === 'port' ? budget.title : budget.id} ${WAY[budget.side]}`;

/** One bar a limit, as a part of it; the line is the limit. */
function BudgetChart({ budgets }: { budgets: readonly Budget[] }) {
  const data = budgets
    .filter((one) => one.limit !== undefined && one.milliamps > 0)
    .map((one) => {
      const part = (one.milliamps / (one.limit ?? 1)) * 100;
      return { name: nameOf(one), part: Math.round(part * 10) / 10, over: part > 100, near: part > 80 };
    });
  const most = Math.max(100, largest(data.map((one) => one.part)));
  return (
    <div
      role="img"
      aria-label={data.map((one) => `${one.name} ${one.part} % of its limit`).join(', ')}
      style={{ height: 24 + data.length * 26 }}
    >
      <ResponsiveContainer width="100%" height="100%" initialDimension={{ width: 420, height: 200 }}>
        <BarChart
          layout="vertical"
          data={data}
          margin={{ top: 2, right: 44, bottom: 0, left: 0 }}
          accessibilityLayer={false}
        >
          <XAxis
            type="number"
            domain={[0, Math.ceil(most / 20) * 20]}
            unit=" %"
            tick={{ fill: 'var(--soft)', fontSize: 11 }}
            stroke="var(--rule)"
          />
          <YAxis
            type="category"
            dataKey="name"
            width={104}
            interval={0}
            tick={{ fill: 'var(--ink)', fontSize: 12 }}
            stroke="var(--rule)"
          />
          <ReferenceLine x={100} stroke="var(--ink)" strokeDasharray="3 2" />
          <Bar dataKey="part" barSize={12} isAnimationActive={false}>
            {data.map((one) => (
              <Cell
                key={one.name}
                fill={one.over ? 'var(--err)' : one.near ? 'var(--warn)' : 'var(--pick)'}
              />
            ))}
            <LabelList
              dataKey="part"
              position="right"
              formatter={(value) => `${String(value)} %`}
              fill="var(--ink)"
              fontSize={11}
            />
          </Bar>
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}

function BudgetTable({ budgets }: { budgets: readonly Budget[] }) {
  const limited = budgets.some((one) => one.limit !== undefined);
  const figures = ['worst case', ...(limited ? ['limit', 'headroom'] : []), 'nets'];
  return (
    <table className="mt-1 w-full border-collapse">
      <TableHead columns={['of', ...figures]} right={figures} />
      <tbody>
        {budgets.map((one) => {
          const left = one.limit === undefined ? undefined : one.limit - one.milliamps;
          return (
            <tr key={nameOf(one)} className="border-t border-rule">
              <th scope="row" className="text-left font-normal">
                {nameOf(one)} <span className="text-soft">{one.kind === 'supply' ? one.title : ''}</span>
              </th>
              <td className="m pl-3 text-right">{currentText(one.milliamps)}</td>
              {limited && (
                <>
                  <td className="m pl-3 text-right text-soft">
                    {one.limit === undefined ? '–' : currentText(one.limit)}
                  </td>
                  <td className={`m pl-3 text-right ${left !== undefined && left < 0 ? 'text-err' : ''}`}>
                    {left === undefined ? '–' : currentText(left)}
                  </td>
                </>
              )}
              <td className="m pl-3 text-right">{one.loads.length}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Nets by what they draw, each with the figures behind it. */
function Consumers() {
  const { derived } = useDerived();
  const { selectedNet } = useSelection();
  const { select } = useActions();
  const loads = [...padLoads(derived.device, derived.resolved)].sort((a, b) => b.milliamps - a.milliamps);
  // One scale for all bars; the mark on each is what its pad allows.
  const most = Math.max(1, largest(loads.map((one) => Math.max(one.milliamps, one.limit ?? 0))));
  const percent = (milliamps: number): string => `${(milliamps / most) * 100}%`;
  return (
    <ol>
      {loads.map(({ one, pad, side, milliamps, limit }) => {
        const over = limit !== undefined && milliamps > limit;
        const { load, farPullOhms } = one.net.demands ?? {};
        const drive = one.planned?.settings.values.drive;
        return (
          <li
            key={one.net.id}
            className={`border-b border-rule py-1 ${selectedNet?.id === one.net.id ? 'bg-pickbg' : ''}`}
          >
            <div className="flex items-baseline gap-2">
              <button
                type="button"
                className="font-medium hover:underline"
                onClick={() => select({ kind: 'net', id: one.net.id })}
              >
                {one.net.name}
              </button>
              <span className="text-soft">
                {side === 'sink' ? 'sinks' : 'sources'} on <span className="m">{pad.id}</span>
              </span>
              <span className={`m ml-auto whitespace-nowrap ${over ? 'text-err' : ''}`}>
                {currentText(milliamps)}
                <span
                  className="text-soft"
                  title={
                    drive === undefined ? 'what the pad allows' : `what the pad allows at drive ${drive}`
                  }
                >
                  {' '}
                  of {limit === undefined ? '–' : currentText(limit)}
                </span>
              </span>
            </div>
            <div className="flex items-center gap-2">
              <span aria-hidden className="relative block h-2.5 w-2/5 shrink-0">
                <span
                  className="absolute left-0 top-[3px] block h-1"
                  style={{ width: percent(milliamps), background: over ? 'var(--err)' : 'var(--pick)' }}
                />
                {limit !== undefined && (
                  <span
                    className="absolute top-0 block h-full w-0 border-l border-dashed border-ink"
                    style={{ left: percent(limit) }}
                  />
                )}
              </span>
              <span className="text-[12px] text-soft">
                {load
                  ? load.kind === 'led'
                    ? `LED: (${load.volts} V − ${load.dropVolts} V) / ${load.ohms} Ω`
                    : `coil: ${load.volts} V / ${load.ohms} Ω`
                  : one.net.demands?.milliamps === undefined && farPullOhms !== undefined
                    ? `against ${ohmsText(farPullOhms)} at the far end`
                    : 'as given'}
              </span>
            </div>
          </li>
        );
      })}
    </ol>
  );
}

'use client';

import type { ReactNode } from 'react';
import {
  currentText,
  demandedMilliamps,
  loadMilliamps,
  ohmsText,
  rateLimit,
  voltsText,
} from '@/core/derive/electrical/limits';
import { nearestRate, rateNotAbove } from '@/core/derive/electrical/rates';
import type { ResolvedNet } from '@/core/derive/resolve/resolve';
import { sidesOfShape } from '@/core/device/geometry';
import { hertzText } from '@/core/device/offers';
import { setDemands, setFar } from '@/core/plan/edits/make-edits';
import { labelOf, setLabelOf } from '@/core/plan/labels';
import { formatText, readFormat } from '@/core/plan/model/format';
import type { Demands, FarEnd, Load, Net } from '@/core/plan/model/types';
import { Segments } from '../parts/segments';
import { useActions, useDerived } from '../workspace/context';
import { FigureField } from './figure-field';
import { Row, Section } from './section';
import { TextField } from './text-field';

type DemandKey = keyof Demands;
/** Changes demands; what is undefined is no longer asked for. */
type SetDemands = (change: Partial<Record<DemandKey, unknown>>) => void;

/** What the board asks of a net's pad, and what the net goes to. */
export function DemandsEditor({ resolved }: { resolved: ResolvedNet }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { net } = resolved;
  const demands: Demands = net.demands ?? {};
  const far: FarEnd = net.far ?? {};
  return (
    <Section title="What it demands">
      <DemandRows
        demands={demands}
        drives={drivesPad(net)}
        serial={isLine(net)}
        rateFacts={<RateFacts resolved={resolved} />}
        set={(change) => dispatch(setDemands(net, { ...demands, ...change } as Demands))}
      />
      <FarRow
        far={{ ...far, label: labelOf(derived.plan, net) }}
        set={(change) => dispatch(setFar(net, { ...far, ...change }))}
        setLabel={(text) => dispatch(setLabelOf(derived.plan, net, text))}
      />
    </Section>
  );
}

/** Whether a net of this role may put current through its pad. */
export const drivesPad = ({ role }: Net): boolean =>
  role.kind !== 'input' && role.kind !== 'analog' && role.kind !== 'interrupt';

/** A line of a peripheral. */
export const isLine = ({ role }: Net): boolean => role.kind === 'signal' || role.kind === 'open-signal';

interface DemandRowsProps {
  demands: Demands;
  /** Where several nets do not agree. */
  differ?: ReadonlySet<DemandKey>;
  drives: boolean;
  /** Whether any is a line of a peripheral. */
  serial: boolean;
  rateFacts?: ReactNode;
  set: SetDemands;
}

/** Rate, current, what is at the far end, level before initialisation, where not to be; of one net or of several. */
export function DemandRows({ demands, differ = AGREED, drives, serial, rateFacts, set }: DemandRowsProps) {
  const { derived } = useDerived();
  const chosen = (key: DemandKey): string | undefined =>
    differ.has(key) ? undefined : String(demands[key] ?? '');
  const placeholder = (key: DemandKey) => (differ.has(key) ? { placeholder: 'differ' } : {});
  const choose = (key: DemandKey) => (value: string) => set({ [key]: value === '' ? undefined : value });
  return (
    <>
      <Row label="rate">
        <FigureField
          label="Rate"
          value={demands.rateHertz}
          show={hertzText}
          units={['Hz', 'Bd', 'bit/s']}
          {...placeholder('rateHertz')}
          onCommit={(rateHertz) => set({ rateHertz })}
        />
      </Row>
      {rateFacts}
      {(serial || demands.format !== undefined) && (
        <Row label="format">
          <TextField
            label="Frame, mode or speed class"
            value={differ.has('format') ? '' : demands.format === undefined ? '' : formatText(demands.format)}
            placeholder={differ.has('format') ? 'differ' : '8N1 · mode 0 · fast'}
            maxLength={40}
            className="m w-full"
            refuse={(text) =>
              text.trim() === '' || readFormat(text)
                ? undefined
                : 'A frame as 8N1 or 115200 8E1, an SPI mode as mode 3 lsb, an I²C class as fast.'
            }
            onCommit={(text) => {
              const read = text === '' ? { format: undefined } : readFormat(text);
              if (read) set(read);
            }}
          />
        </Row>
      )}
      {drives && (
        <LoadRows demands={demands} differ={differ.has('load') || differ.has('milliamps')} set={set} />
      )}
      <Row label="far end">
        <Segments
          label="Held at the far end"
          value={chosen('farPull')}
          choices={[
            { value: '', label: '–' },
            { value: 'up', label: 'pull-up' },
            { value: 'down', label: 'pull-down' },
            { value: 'driven', label: 'drives' },
          ]}
          onChange={choose('farPull')}
        />
      </Row>
      {(demands.farPull === 'up' || demands.farPull === 'down') && (
        <Row label="through">
          <FigureField
            label="Resistor at the far end"
            value={demands.farPullOhms}
            show={ohmsText}
            units={['Ω', 'ohm', 'R']}
            {...placeholder('farPullOhms')}
            onCommit={(farPullOhms) => set({ farPullOhms })}
          />
        </Row>
      )}
      <Row label="up to">
        <FigureField
          label="Highest voltage of the far end"
          value={demands.farVolts}
          show={voltsText}
          units={['V']}
          {...placeholder('farVolts')}
          onCommit={(farVolts) => set({ farVolts })}
        />
      </Row>
      <Row label="level before init">
        <Segments
          label="Level before initialisation"
          value={chosen('beforeInit')}
          choices={[
            { value: '', label: 'any' },
            { value: 'high', label: 'high' },
            { value: 'low', label: 'low' },
          ]}
          onChange={choose('beforeInit')}
        />
      </Row>
      <Row label="side">
        <Segments
          label="Side of the package"
          value={chosen('side')}
          choices={[
            { value: '', label: 'any' },
            ...sidesOfShape(derived.pkg).map((side) => ({ value: side, label: side })),
          ]}
          onChange={choose('side')}
        />
      </Row>
      <Row label="not on">
        <TextField
          label="Pads ruled out"
          value={(demands.notPads ?? []).join(' ')}
          placeholder={differ.has('notPads') ? 'differ' : 'B7 C3'}
          maxLength={200}
          className="m w-full"
          refuse={(text) => {
            const strange = padsIn(text).find((pad) => !derived.device.pads.has(pad));
            return strange === undefined ? undefined : `There is no pad ${strange}.`;
          }}
          onCommit={(text) => set({ notPads: padsIn(text).length > 0 ? padsIn(text) : undefined })}
        />
      </Row>
    </>
  );
}

const AGREED: ReadonlySet<DemandKey> = new Set();

interface FarRowProps {
  far: FarEnd;
  differ?: ReadonlySet<keyof FarEnd>;
  set: (change: FarEnd) => void;
  /** What the board prints beside the pad is the pad's, and written there. Several nets have no one label. */
  setLabel?: (text: string) => void;
}

/** What the net goes to, and where it is found on the board. */
export function FarRow({ far, differ, set, setLabel }: FarRowProps) {
  return (
    <Row label="connects">
      <span className="flex gap-1">
        {FAR_FIELDS.filter(({ key }) => key !== 'label' || setLabel).map(({ key, label, placeholder }) => (
          <TextField
            key={key}
            label={label}
            value={far[key] ?? ''}
            placeholder={differ?.has(key) ? 'differ' : placeholder}
            maxLength={key === 'label' ? 40 : 120}
            className="w-full min-w-0"
            onCommit={(text) =>
              key === 'label' ? setLabel?.(text) : set({ [key]: text === '' ? undefined : text })
            }
          />
        ))}
      </span>
    </Row>
  );
}

const FAR_FIELDS = [
  { key: 'part', label: 'Part at the far end', placeholder: 'part' },
  { key: 'connector', label: 'Connector', placeholder: 'connector' },
  { key: 'label', label: 'Label on the board', placeholder: 'label' },
] as const;

const padsIn = (text: string): string[] => [
  ...new Set(
    text
      .toUpperCase()
      .split(/[\s,;]+/)
      .filter(Boolean),
  ),
];

/** The nearest rate that can be had, and who limits it. */
function RateFacts({ resolved }: { resolved: ResolvedNet }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { net, pad, fn, planned } = resolved;
  const wanted = net.demands?.rateHertz;
  if (!pad || wanted === undefined) return null;
  const rate = fn && nearestRate(derived.device, fn.signal, wanted);
  const slower =
    fn && rate && rate.errorPercent > 0 ? rateNotAbove(derived.device, fn.signal, wanted) : undefined;
  const limit = rateLimit(derived.device, derived.pkg, pad, fn, planned?.settings.values.speed);
  return (
    <>
      {rate && (
        <Row label="gets">
          <span className="m">{hertzText(rate.hertz)}</span>{' '}
          <span className="text-soft">
            {rate.errorPercent === 0
              ? 'exact'
              : `${rate.errorPercent > 0 ? '+' : '−'}${Math.abs(rate.errorPercent).toFixed(2)} %`}{' '}
            · {hertzText(rate.clockHertz)}
            {rate.per > 1 ? ` / ${rate.per}` : ''} / {rate.divider}
          </span>
        </Row>
      )}
      {slower && (
        <Row label="not above">
          <button
            type="button"
            className="link m"
            onClick={() => dispatch(setDemands(net, { ...net.demands, rateHertz: slower.hertz }))}
          >
            {hertzText(slower.hertz)}
          </button>{' '}
          <span className="text-soft">
            −{Math.abs(slower.errorPercent).toFixed(2)} % · / {slower.divider}
          </span>
        </Row>
      )}
      {limit && (
        <Row label="at most">
          <span className={limit.hertz * 1.02 < wanted ? 'text-err' : ''}>{hertzText(limit.hertz)}</span>{' '}
          <span className="text-soft">{limit.why}</span>
        </Row>
      )}
    </>
  );
}

interface LoadRowsProps {
  demands: Demands;
  differ: boolean;
  set: SetDemands;
}

/** The current, as a figure or out of what hangs on the pad. */
function LoadRows({ demands, differ, set }: LoadRowsProps) {
  const { load } = demands;
  const kind = differ ? undefined : (load?.kind ?? (demands.milliamps === undefined ? '' : 'figure'));
  const choose = (value: string): void => {
    if (value === '') set({ milliamps: undefined, load: undefined });
    else if (value === 'figure')
      set({ load: undefined, milliamps: Math.round((demandedMilliamps(demands) ?? 2) * 10) / 10 });
    else if (value === 'led')
      set({ milliamps: undefined, load: { kind: 'led', volts: 3.3, dropVolts: 2, ohms: 680 } });
    else set({ milliamps: undefined, load: { kind: 'coil', volts: 3.3, ohms: 1000 } });
  };
  const figure = (
    label: string,
    key: 'volts' | 'dropVolts' | 'ohms',
    show: (value: number) => string,
    units: readonly string[],
  ) => (
    <FigureField
      label={label}
      value={load?.kind === 'led' ? load[key] : load?.[key as 'volts' | 'ohms']}
      show={show}
      units={units}
      className="m w-14 px-1"
      onCommit={(value) => value !== undefined && set({ load: { ...load, [key]: value } as Load })}
    />
  );
  return (
    <>
      <Row label="load">
        <Segments
          label="Load"
          value={kind}
          choices={[
            { value: '', label: 'none' },
            { value: 'figure', label: 'current' },
            { value: 'led', label: 'LED' },
            { value: 'coil', label: 'coil' },
          ]}
          onChange={choose}
        />
      </Row>
      {kind === 'figure' && (
        <Row label="current">
          <FigureField
            label="Current"
            value={demands.milliamps}
            show={currentText}
            units={['A']}
            scale={1000}
            onCommit={(milliamps) => set({ milliamps })}
          />
        </Row>
      )}
      {load && (
        <Row label="from">
          <span className="flex flex-wrap items-baseline gap-1">
            {figure('Voltage that feeds it', 'volts', voltsText, ['V'])}
            {load.kind === 'led' && (
              <>
                <span className="text-soft">less</span>
                {figure('Voltage across the LED', 'dropVolts', voltsText, ['V'])}
              </>
            )}
            <span className="text-soft">over</span>
            {figure(load.kind === 'led' ? 'Series resistor' : 'Resistance of the coil', 'ohms', ohmsText, [
              'Ω',
              'ohm',
              'R',
            ])}
            <span className="m">= {currentText(loadMilliamps(load))}</span>
          </span>
        </Row>
      )}
    </>
  );
}

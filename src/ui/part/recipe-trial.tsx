'use client';

import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import { hexText } from '@/core/base/text/hex';
import { decodeTrial, encodeTrial, muxFunctions, readsBack, type TrialWish } from '@/core/derive/lower/trial';
import { printDevice } from '@/core/description/print-device';
import { hasRecipe, type RecipeSource } from '@/core/description/recipe';
import type { Mode } from '@/core/description/settings';
import { titleOn, valuesOn } from '@/core/device/available';
import type { Device } from '@/core/device/device';
import type { PartSummary } from '@/core/device/part-facts';
import { addressSentence, addressTexts } from '@/core/device/registers/register-text';
import { api } from '../client/api';
import { ConfirmList } from '../parts/confirm-list';
import { ProblemAlert } from '../parts/problem-alert';
import { ScrollRegion } from '../parts/scroll-region';
import { Segments } from '../parts/segments';
import { NoRecipe } from './no-recipe';
import { TrialDump } from './trial-dump';
import { TrialWrites } from './trial-writes';

/** The recipe, tried: settings of one pad as bits, and bits as settings. */
export function RecipeTrial({ device, summary }: { device: Device; summary: PartSummary }) {
  const { recipe } = device.description;
  const router = useRouter();
  const [problems, setProblems] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);

  async function confirm(ids: ReadonlySet<string>) {
    setBusy(true);
    const { unconfirmed = [], ...rest } = device.original;
    const left = unconfirmed.filter((one) => !ids.has(one.id));
    const next = { ...rest, ...(left.length > 0 ? { unconfirmed: left } : {}) };
    const answer = await api.storePart(`${summary.id}.device.json`, printDevice(next), summary.revision);
    setBusy(false);
    if (answer.ok) router.refresh();
    else setProblems(answer.problems);
  }

  if (!hasRecipe(recipe)) return <NoRecipe device={device} />;
  return (
    <ScrollRegion label="Recipe" className="h-full px-6 py-3">
      <ProblemAlert problems={problems} className="mb-3" />
      <ConfirmList
        open={device.description.unconfirmed ?? []}
        busy={busy}
        onConfirm={(ids) => void confirm(ids)}
      />
      <div className="grid gap-x-10 gap-y-4 xl:grid-cols-[minmax(0,1fr)_380px]">
        <Trial device={device} />
        <section>
          <h2 className="mb-1 font-semibold">What it does, stage by stage</h2>
          <ol className="grid gap-1">
            {recipe.stages.map((stage, index) => (
              <li key={stage.id} className="grid grid-cols-[18px_1fr]">
                <span className="text-soft">{index + 1}</span>
                <span>
                  {stage.title ?? stage.id}
                  {stage.per && stage.per !== 'device' && (
                    <span className="text-soft">, for each {stage.per}</span>
                  )}
                  {stage.why && <span className="block text-[12px] text-soft">{stage.why}</span>}
                  {(stage.do ?? []).map((step) => (
                    <span key={step} className="m block text-soft">
                      {step}
                    </span>
                  ))}
                  {stage.fields && <span className="m block text-soft">{stage.fields.join(' ')}</span>}
                </span>
              </li>
            ))}
          </ol>
        </section>
      </div>
    </ScrollRegion>
  );
}

/** One pad to try on. */
export function Trial({ device, startPad }: { device: Device; startPad?: string }) {
  const pads = useMemo(
    () => device.description.pads.filter((pad) => pad.kind === 'io' && pad.port !== undefined),
    [device],
  );
  const [padId, setPadId] = useState(startPad ?? pads[0]?.id ?? '');
  const [wish, setWish] = useState<TrialWish>({ mode: 'output', values: {} });
  const [typed, setTyped] = useState<Record<string, string>>({});
  const pad = device.pads.get(padId);
  const trial = useMemo(() => {
    if (!pad) return null;
    const modes = valuesOn(device, pad, 'mode') as Mode[];
    const mode = modes.includes(wish.mode) ? wish.mode : (modes[0] ?? 'input');
    try {
      return { mode, modes, ...encodeTrial(device, pad, { ...wish, mode }) };
    } catch (error) {
      // A recipe that is being put together may miss rows; the message of the expression says where.
      return { mode, modes, problem: error instanceof Error ? error.message : String(error) };
    }
  }, [device, pad, wish]);
  if (!pad || !trial) return <p className="text-soft">The part has no I/O pads with a port.</p>;
  const functions = muxFunctions(device, pad);
  const change = (next: Partial<TrialWish>): void => {
    setTyped({});
    setWish((old) => ({ ...old, ...next }));
  };
  return (
    <section aria-label="Trial">
      <div className="grid grid-cols-[90px_1fr] items-baseline gap-x-3 gap-y-1.5">
        <label htmlFor="trial-pad" className="text-soft">
          pad
        </label>
        <select
          id="trial-pad"
          className="m w-28"
          value={padId}
          onChange={(event) => {
            setTyped({});
            setPadId(event.target.value);
          }}
        >
          {pads.map((one) => (
            <option key={one.id}>{one.id}</option>
          ))}
        </select>
        <span className="text-soft">mode</span>
        <Segments
          label="mode"
          value={trial.mode}
          choices={trial.modes.map((value) => ({ value, label: value }))}
          onChange={(value) => change({ mode: value as Mode })}
        />
        {trial.mode === 'function' && functions.length > 0 && (
          <>
            <label htmlFor="trial-signal" className="text-soft">
              function
            </label>
            <select
              id="trial-signal"
              className="m w-40"
              value={wish.signal ?? functions[0]?.signal}
              onChange={(event) => change({ signal: event.target.value })}
            >
              {functions.map((fn) => (
                <option key={`${fn.signal} ${fn.mux}`} value={fn.signal}>
                  {fn.signal} (code {fn.mux})
                </option>
              ))}
            </select>
          </>
        )}
        {'keys' in trial &&
          trial.keys.map(({ key, values, value }) => (
            <div key={key} className="contents">
              <span className="text-soft">{titleOn(device, key)}</span>
              <Segments
                label={titleOn(device, key)}
                value={value}
                choices={values.map((one) => ({ value: one, label: one }))}
                onChange={(next) => change({ values: { ...wish.values, [key]: next } })}
              />
            </div>
          ))}
      </div>
      {'problem' in trial ? (
        <p role="alert" className="mt-3 text-err">
          {trial.problem}
        </p>
      ) : (
        <>
          {trial.given.map(({ key, why }) => (
            <p key={key} className="mt-2 text-warn">
              △ {titleOn(device, key)} does not go with the rest: {why}
            </p>
          ))}
          <Bits
            key={`${padId} ${JSON.stringify(trial.settings)}`}
            device={device}
            padId={padId}
            trial={trial}
            typed={typed}
            onTyped={setTyped}
          />
          <TrialWrites device={device} padId={padId} trial={trial} />
        </>
      )}
      <TrialDump device={device} padId={padId} />
    </section>
  );
}

/** Which addresses stand below, and in which number bases. */
const addressHead = ({ addresses }: Pick<RecipeSource, 'addresses'>): string =>
  addresses ? `${addresses.document}, ${addresses.cpu}: hex (dec)` : 'address, hex (dec)';

interface BitsProps {
  device: Device;
  padId: string;
  trial: ReturnType<typeof encodeTrial>;
  typed: Record<string, string>;
  onTyped: (typed: Record<string, string>) => void;
}

/** The registers with the pad's bits; a value typed over them is read back as settings. */
function Bits({ device, padId, trial, typed, onTyped }: BitsProps) {
  const pad = device.pads.get(padId);
  if (!pad) return null;
  const { recipe } = device.description;
  const values = new Map(
    trial.registers.map(({ register, value }) => {
      const text = typed[register.name];
      const number = text === undefined ? value : Number(text);
      const usable = Number.isInteger(number) && number >= 0 && number < 2 ** register.bits;
      return [register, usable ? number : value] as const;
    }),
  );
  const changed = Object.keys(typed).length > 0;
  const read = decodeTrial(device, pad, values);
  const good = readsBack(device, pad, trial);
  return (
    <>
      <table className="m mt-3 border-collapse">
        <thead>
          <tr className="border-b border-ink text-left text-soft">
            <th className="pr-4 font-normal">register</th>
            <th className="pr-4 font-normal">{addressHead(recipe)}</th>
            <th className="pr-4 font-normal">reset</th>
            <th className="pr-4 font-normal">value</th>
            <th className="font-normal">the pad's bits</th>
          </tr>
        </thead>
        <tbody>
          {trial.registers.map(({ register, value, mask }) => (
            <tr
              key={register.name}
              className="border-b border-rule"
              title={addressSentence(register, recipe)}
            >
              <th scope="row" className="py-0.5 pr-4 text-left font-medium">
                {register.name}
              </th>
              <td className="pr-4 text-soft">
                {addressTexts(register, recipe).map(({ view, hex, decimal }) => (
                  <span key={view} className="block" title={view}>
                    {hex} ({decimal})
                  </span>
                ))}
              </td>
              <td className="pr-4 text-soft">{hexText(register.reset, register.bits)}</td>
              <td className="pr-4">
                <input
                  aria-label={`Value of ${register.name}`}
                  className="m w-24 !h-6 !py-0"
                  value={typed[register.name] ?? hexText(value, register.bits)}
                  onChange={(event) => onTyped({ ...typed, [register.name]: event.target.value })}
                />
              </td>
              <td className="text-soft">
                {trial.contributions
                  .filter((one) => one.register === register)
                  .map((one) => (
                    <span key={`${one.field} ${one.low}`} className="mr-3 whitespace-nowrap">
                      {one.field}{' '}
                      <span className="text-ink">
                        {(one.value / 2 ** one.low).toString(2).padStart(one.bits, '0')}
                      </span>{' '}
                      {one.bits === 1 ? `bit ${one.low}` : `bits ${one.low + one.bits - 1}…${one.low}`}
                    </span>
                  ))}
                <span className="sr-only">mask {hexText(mask, register.bits)}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {trial.registers.length === 0 && (
        <p className="mt-3 text-soft">No register decides anything for this mode.</p>
      )}
      <p className="mt-2" role="status" data-testid="reads-back">
        <span className="text-soft">{changed ? 'these values mean' : 'reads back as'}</span>{' '}
        {read.settings.length === 0 ? (
          <span className="text-err">nothing: no setting gives these bits</span>
        ) : (
          read.words
        )}
        {!changed &&
          (good ? (
            <span className="text-soft">: the same</span>
          ) : (
            <span className="text-err">: not what was set</span>
          ))}
        {changed && (
          <button type="button" className="link ml-3" onClick={() => onTyped({})}>
            back to the encoded values
          </button>
        )}
      </p>
    </>
  );
}

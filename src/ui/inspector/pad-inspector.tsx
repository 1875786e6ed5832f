'use client';

import Link from 'next/link';
import { carries } from '@/core/derive/candidates/occupancy';
import { functionsFor, whyNot } from '@/core/derive/resolve/resolve';
import { whatText } from '@/core/description/corrections';
import { sourceText } from '@/core/description/source';
import type { PadFunction } from '@/core/description/types';
import { hertzText, highestRate, offerOf, takenAlong } from '@/core/device/offers';
import { placeNet } from '@/core/plan/edits/make-edits';
import { labelAt, setLabelAt } from '@/core/plan/labels';
import { type Net, roleText } from '@/core/plan/model/types';
import { SourceLink } from '../parts/source-link';
import { useActions, useDerived } from '../workspace/context';
import { FindingLines } from './finding-lines';
import { pinWords } from './net-inspector';
import { NewNetHere } from './new-net-here';
import { Row, Section } from './section';
import { PadTolerance } from './settings-editor';
import { TextField } from './text-field';
import { UnusedChoice } from './unused-choice';

/** A pad: what it offers, who else uses that, who sits here, who could. */
export function PadInspector({ padId }: { padId: string }) {
  const { derived } = useDerived();
  const { select, dispatch } = useActions();
  const { device, pkg } = derived;
  const pad = device.pads.get(padId);
  if (!pad) return null;
  const pins = device.pinsOf.get(pkg.id)?.get(padId) ?? [];
  const here = derived.byPad.get(padId) ?? [];
  const functions = device.functionsByPad.get(padId) ?? [];
  const along = takenAlong(device, padId, (signal, on) => carries(derived, signal, on))[0];
  const notes = (pad.notes ?? []).map((note) => ({ note, text: device.description.notes[note] ?? '' }));
  return (
    <>
      <h2 className="text-[17px] font-semibold">
        Pad <span className="font-mono text-[16px]">{padId}</span>
      </h2>
      <p className="text-soft">
        {pinWords(pins)}
        {pad.port !== undefined ? ` · port ${pad.port}, bit ${pad.bit}` : ` · ${pad.kind}`}
      </p>
      {pad.aliases && (
        <Row label="also called">
          <span className="m">{pad.aliases.join(', ')}</span>
        </Row>
      )}
      {pad.supply && <Row label="supply">{pad.supply}</Row>}
      {pad.class && (
        <Row label="tolerates">
          <PadTolerance padClass={pad.class} />
        </Row>
      )}
      {along && (
        <Row label="taken by">
          <span className="m">{along.signal}</span> on {along.pad}: {along.why}
        </Row>
      )}
      {pad.boot && <Row label={pad.boot.kind}>{pad.boot.note}</Row>}
      {notes.map(({ note, text }) => (
        <Row key={note} label={`note ${note}`}>
          {text}
        </Row>
      ))}
      {pad.source && (
        <Row label="source">
          <SourceLink source={pad.source} />
        </Row>
      )}
      {pad.kind === 'io' && pins.length > 0 && (
        <Row label="on board">
          <TextField
            label={`What the board prints beside ${padId}`}
            value={labelAt(derived.plan, padId)}
            placeholder="label"
            maxLength={40}
            className="m w-28"
            onCommit={(text) => dispatch(setLabelAt(derived.plan, padId, text))}
          />
        </Row>
      )}
      {pad.kind === 'io' && pins.length > 0 && here.length === 0 && !pad.boot && <UnusedChoice pad={padId} />}
      <PadCorrections padId={padId} />
      <FindingLines findings={derived.findings.filter((one) => !one.waived && one.pads.includes(padId))} />
      {here.length > 0 && (
        <Section title={here.length > 1 ? 'Nets here' : 'Net here'}>
          {here.map(({ net }) => (
            <button
              key={net.id}
              type="button"
              className="block hover:underline"
              onClick={() => select({ kind: 'net', id: net.id })}
            >
              <b className="font-semibold">{net.name}</b>{' '}
              <span className="text-soft">{roleText(net.role)}</span>
            </button>
          ))}
        </Section>
      )}
      {pad.kind === 'io' && pins.length > 0 && (
        <>
          {here.length === 0 && <WaitingNets padId={padId} />}
          <Section title={`${functions.length} ${functions.length === 1 ? 'function' : 'functions'}`}>
            <ul>
              {functions.map((fn) => (
                <FunctionLine key={`${fn.signal} ${fn.mux}`} fn={fn} />
              ))}
            </ul>
            {functions.length === 0 && <p className="text-soft">Plain input and output only.</p>}
          </Section>
          {here.length === 0 && <NewNetHere pad={pad} />}
        </>
      )}
    </>
  );
}

/** A function the pad offers: its code, where else it is, who has it; what the package's notes say of it, and its source. */
function FunctionLine({ fn }: { fn: PadFunction }) {
  const { derived } = useDerived();
  const { select } = useActions();
  const { device, pkg } = derived;
  const offer = offerOf(device, pkg);
  const removal = offer.removal(fn);
  const rate = highestRate(device, pkg, fn);
  const users = (derived.bySignal.get(fn.signal) ?? []).filter((one) => one.pad);
  const analogUsers = fn.mux === null ? (derived.byPad.get(fn.pad) ?? []) : [];
  const elsewhere = offer
    .carrying(fn.signal)
    .map((one) => one.pad)
    .filter((pad) => pad !== fn.pad);
  const notes = (fn.notes ?? []).map((note) => `note ${note}: ${device.description.notes[note] ?? ''}`);
  return (
    <li
      className="grid grid-cols-[54px_86px_1fr] items-baseline gap-1 py-[1.5px]"
      title={fn.source ? `from ${sourceText(fn.source)}` : undefined}
    >
      <span
        className="m whitespace-nowrap text-soft"
        title={
          fn.itself
            ? 'no register selects it: the peripheral takes the pad by itself'
            : fn.mux === null
              ? 'reached through analog mode'
              : `the mux code that selects it here`
        }
      >
        {fn.itself ? 'by itself' : fn.mux === null ? 'analog' : `code ${fn.mux}`}
      </span>
      <span className={`m ${removal ? 'text-soft line-through' : ''}`}>{fn.signal}</span>
      <span className="text-soft">
        {removal
          ? removal.why
          : users.length > 0 && analogUsers.length === 0
            ? users.map((one) => (
                <button
                  key={one.net.id}
                  type="button"
                  className="mr-1 text-ink hover:underline"
                  onClick={() => select({ kind: 'net', id: one.net.id })}
                >
                  {one.net.name}
                  {one.pad?.id === fn.pad ? ' here' : ` on ${one.pad?.id}`}
                </button>
              ))
            : elsewhere.length > 0
              ? `also ${elsewhere.join(' ')}`
              : 'only here'}
        {rate && !removal && (
          <span className="block text-[12px]" title={rate.why}>
            {hertzText(rate.hertz)} at most
          </span>
        )}
        {notes.map((text) => (
          <span key={text} className="block text-[12px]">
            {text}
          </span>
        ))}
      </span>
    </li>
  );
}

/** What was corrected of this pad: the original, what is taken for right, and why. */
function PadCorrections({ padId }: { padId: string }) {
  const { derived } = useDerived();
  const { device, plan, pkg } = derived;
  const pins = device.pinsOf.get(pkg.id)?.get(padId) ?? [];
  const unapplied = new Set(device.unapplied.map((one) => one.correction.id));
  const mine = (device.original.corrections ?? []).filter(({ what, from, to }) => {
    const [kind, a, b] = what;
    if (kind === 'pad' || kind === 'function') return a === padId;
    return kind === 'pin' && a === pkg.id && (pins.includes(b ?? '') || from === padId || to === padId);
  });
  return (
    <>
      {mine.map((one) => (
        <Row key={one.id} label="corrected">
          {whatText(one.what)}: <s className="text-soft">{one.from ?? 'nothing'}</s> {one.to ?? 'nothing'}{' '}
          <span className="text-soft">
            ({one.why}
            {one.who && `, ${one.who}`}){unapplied.has(one.id) && ', not applied any more'}
          </span>
        </Row>
      ))}
      <Row label="wrong?">
        <Link
          prefetch={false}
          className="link"
          href={`/parts/${plan.device}?tab=corrections&what=pad&what=${encodeURIComponent(padId)}`}
        >
          correct a datum
        </Link>
      </Row>
    </>
  );
}

/** Nets without a pad that could sit here. */
function WaitingNets({ padId }: { padId: string }) {
  const { derived } = useDerived();
  const { dispatch, select } = useActions();
  const { device, pkg } = derived;
  const pad = device.pads.get(padId);
  const unplaced = derived.plan.nets.filter(
    (net) => !net.placement && pad && whyNot(device, pkg, net.role, pad) === undefined,
  );
  if (!pad || unplaced.length === 0) return null;

  function place(net: Net) {
    if (!pad) return;
    const fn = functionsFor(device, pkg, net.role, pad)[0];
    dispatch(
      placeNet(net, {
        pad: padId,
        locked: false,
        ...(net.role.kind === 'open-signal' && fn ? { signal: fn.signal } : {}),
      }),
    );
    select({ kind: 'net', id: net.id });
  }

  return (
    <Section title="Could sit here">
      {unplaced.slice(0, 10).map((net) => (
        <button
          key={net.id}
          type="button"
          className="block w-full py-px text-left hover:bg-pickbg"
          onClick={() => place(net)}
        >
          <b className="font-medium">{net.name}</b> <span className="text-soft">{roleText(net.role)}</span>
        </button>
      ))}
      {unplaced.length > 10 && <p className="text-soft">and {unplaced.length - 10} more</p>}
    </Section>
  );
}

'use client';

import { Trash2 } from 'lucide-react';
import type { PadFunction } from '@/core/description/types';
import { hertzText, highestRate } from '@/core/device/offers';
import { placeNet, removeNet, renameNet, setCircuit, setNote, setRole } from '@/core/plan/edits/make-edits';
import type { Net } from '@/core/plan/model/types';
import { circuitColour } from '../parts/circuit-colour';
import { SourceLink } from '../parts/source-link';
import { GLYPHS } from '../parts/state-glyph';
import { useActions, useDerived, useSearch } from '../workspace/context';
import { Alternatives } from './alternatives';
import { BitsSet } from './bits-set';
import { CandidateList } from './candidate-list';
import { CircuitMenu } from './circuit-menu';
import { ConstraintsOf } from './constraints';
import { DemandsEditor } from './demands-editor';
import { FindingLines } from './finding-lines';
import { RoleField } from './role-field';
import { Row, Section } from './section';
import { SettingsEditor } from './settings-editor';
import { TextField } from './text-field';

export function NetInspector({ net }: { net: Net }) {
  const { derived } = useDerived();
  const { placing } = useSearch();
  const { dispatch, select, setMoving } = useActions();
  const { plan } = derived;
  const resolved = derived.byNet.get(net.id);
  const { placement } = net;
  const circuit = plan.circuits.find((one) => one.id === net.circuit);

  return (
    <>
      <div className="flex items-center gap-1">
        <h2 className="sr-only">Net {net.name}</h2>
        <TextField
          label="Net name"
          value={net.name}
          maxLength={120}
          className="-ml-[5px] w-full border-transparent bg-transparent px-1 text-[17px] font-semibold hover:border-rule"
          refuse={(text) => (text.trim() === '' ? 'A net needs a name.' : undefined)}
          onCommit={(text) => dispatch(renameNet(net, text))}
        />
        <button
          type="button"
          className="p-1 text-soft hover:text-ink"
          aria-label={`Remove ${net.name}`}
          title="Remove this net"
          onClick={() => {
            if (dispatch(removeNet(plan, net))) select(null);
          }}
        >
          <Trash2 size={15} />
        </button>
      </div>
      <Row label="circuit">
        <span className="flex items-center gap-1.5">
          <i className="block h-3 w-1" style={{ background: circuitColour(plan, net.circuit) }} />
          <select
            aria-label="Circuit"
            className="min-w-0 flex-1 py-0"
            value={net.circuit}
            onChange={(event) => dispatch(setCircuit(net, event.target.value))}
          >
            {plan.circuits.map((circuit) => (
              <option key={circuit.id} value={circuit.id}>
                {circuit.name}
              </option>
            ))}
          </select>
          {circuit && <CircuitMenu circuit={circuit} />}
        </span>
      </Row>
      <Row label="is">
        <RoleField key={net.id} role={net.role} onChange={(role) => dispatch(setRole(net, role))} />
      </Row>
      <Row label="sits on">
        {placement ? (
          <span className="flex flex-wrap items-center gap-x-1.5 gap-y-1">
            <button
              type="button"
              className="m font-medium hover:underline"
              onClick={() => select({ kind: 'pad', id: placement.pad })}
            >
              {placement.pad}
            </button>
            <span className="text-soft">{pinWords(resolved?.pins ?? [])}</span>
            <span className="ml-auto flex gap-1">
              <button
                type="button"
                className="button px-1"
                aria-pressed={placement.locked}
                title="A locked net stays where it is when others are moved (K)"
                onClick={() => dispatch(placeNet(net, { ...placement, locked: !placement.locked }))}
              >
                {placement.locked ? '◆ locked' : '◇ lock'}
              </button>
              <button
                type="button"
                className="button px-1"
                title="Take it off its pad (Delete)"
                onClick={() => dispatch(placeNet(net, null))}
              >
                clear
              </button>
            </span>
          </span>
        ) : (
          <span className="text-soft">not placed</span>
        )}
      </Row>
      {placement && !placing && <Alternatives net={net} />}
      {resolved?.fn && placement && <FunctionFacts fn={resolved.fn} />}
      <FindingLines findings={derived.findings.filter((one) => !one.waived && one.nets.includes(net.id))} />
      {placing ? (
        <CandidateList />
      ) : (
        <div className="mt-2">
          <button type="button" className="link" onClick={() => setMoving(net.id)}>
            Find another pad
          </button>
          <span className="m ml-2 text-soft">M</span>
        </div>
      )}
      {resolved && <SettingsEditor resolved={resolved} />}
      {resolved && <DemandsEditor resolved={resolved} />}
      <ConstraintsOf net={net} />
      {resolved?.planned && resolved.pins.length > 0 && <BitsSet planned={resolved.planned} />}
      <Section title="Note">
        <TextField
          label="Note"
          value={net.note ?? ''}
          maxLength={2000}
          placeholder="why it is so, what sits at the far end"
          className="w-full"
          onCommit={(text) => dispatch(setNote(net, text))}
        />
      </Section>
    </>
  );
}

/** The function in use: its code, the highest rate and who limits it, and where that was read. */
function FunctionFacts({ fn }: { fn: PadFunction }) {
  const { derived } = useDerived();
  const rate = highestRate(derived.device, derived.pkg, fn);
  return (
    <>
      <Row label="function">
        <span className="m">{fn.signal}</span>{' '}
        <span className="text-soft">
          {fn.itself
            ? 'no code, takes the pad by itself'
            : fn.mux === null
              ? 'analog, no code'
              : `mux code ${fn.mux}`}
        </span>
      </Row>
      {rate && (
        <Row label="at most">
          {hertzText(rate.hertz)} <span className="text-soft">{rate.why}</span>
        </Row>
      )}
      {fn.source && (
        <Row label="source">
          <SourceLink source={fn.source} />
        </Row>
      )}
    </>
  );
}

export const pinWords = (pins: readonly string[]): string =>
  pins.length === 0 ? `${GLYPHS.unbonded.shape} ${GLYPHS.unbonded.word}` : `pin ${pins.join(', ')}`;

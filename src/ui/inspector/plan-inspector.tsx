'use client';

import Link from 'next/link';
import { prefixOf } from '@/core/derive/resolve/resolve';
import type { Edit } from '@/core/plan/edits/edits';
import { type PlanField, planField } from '@/core/plan/edits/plan-set';
import { provenWords } from '../parts/proven-words';
import { Segments } from '../parts/segments';
import { GLYPHS } from '../parts/state-glyph';
import { SignOff } from '../review/sign-off';
import { VariantsRow } from '../variants/variants-row';
import { useActions, useDerived } from '../workspace/context';
import { CodeOptions } from './code-options';
import { Row, Section } from './section';
import { TextField } from './text-field';
import { UnusedChoice } from './unused-choice';
import { WaiverList } from './waive';

/** Nothing is selected: the plan itself. */
export function PlanInspector() {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan, device, pkg, counts } = derived;
  const placed = plan.nets.filter((net) => net.placement).length;
  const set = (field: PlanField, to: string) => {
    const edit: Edit = { kind: 'plan.set', field, from: planField(plan, field), to };
    dispatch(edit);
  };
  return (
    <>
      <h2 className="sr-only">Plan</h2>
      <TextField
        label="Plan name"
        value={plan.name}
        maxLength={120}
        className="-ml-[5px] w-full border-transparent bg-transparent px-1 text-[17px] font-semibold hover:border-rule"
        refuse={(text) => (text.trim() === '' ? 'A plan needs a name.' : undefined)}
        onCommit={(text) => set('name', text)}
      />
      <Row label="revision">
        <TextField
          label="Revision"
          value={plan.revision}
          maxLength={40}
          className="w-24"
          onCommit={(text) => set('revision', text)}
        />
      </Row>
      <Row label="part">
        <Link prefetch={false} className="link" href={`/parts/${plan.device}`}>
          {device.description.name}
        </Link>
        <br />
        <span className="text-soft">{device.description.summary}</span>
      </Row>
      <Row label="package">{pkg.name}</Row>
      <Section title="State">
        <Row label="nets">
          {placed} of {plan.nets.length} placed
        </Row>
        <Row label="findings">
          {counts.error} {counts.error === 1 ? 'error' : 'errors'}, {counts.warning}{' '}
          {counts.warning === 1 ? 'warning' : 'warnings'}
        </Row>
        <Row label="proof">{provenWords(derived)}</Row>
        <SignOff />
        <VariantsRow />
      </Section>
      <Section title="Code">
        <Row label="prefix">
          <TextField
            label="Prefix of generated names"
            value={plan.code.prefix}
            placeholder={prefixOf(plan)}
            maxLength={40}
            className="w-full"
            refuse={(text) =>
              /^([A-Za-z][A-Za-z0-9_]*)?$/.test(text.trim())
                ? undefined
                : 'Letters, digits and underscores, a letter first.'
            }
            onCommit={(text) => set('code.prefix', text)}
          />
        </Row>
        <Row label="writes">
          <Segments
            label="writes"
            value={plan.code.style}
            choices={[
              { value: 'preserving', label: 'planned bits' },
              { value: 'from-reset', label: 'all bits' },
            ]}
            onChange={(value) => set('code.style', value)}
          />
        </Row>
        <p className="text-[12px] text-soft">
          {plan.code.style === 'preserving'
            ? 'Reads, changes the planned bits, writes: safe after a bootloader.'
            : 'Relies on reset values: shorter, only right after reset.'}
        </p>
      </Section>
      <CodeOptions />
      <Section title="Code of an incomplete plan">
        <Segments
          label="Code of an incomplete plan"
          value={plan.code.incomplete ?? 'allow'}
          choices={[
            { value: 'allow', label: 'compiles' },
            { value: 'refuse', label: 'does not' },
          ]}
          onChange={(value) => set('code.incomplete', value)}
        />
        <p className="text-[12px] text-soft">
          {plan.code.incomplete === 'refuse'
            ? 'While a net has no pad, the header holds an #error that names it.'
            : 'Nets without a pad are listed in the header; the rest can be used.'}
        </p>
      </Section>
      <Section title="Pads nobody planned">
        <UnusedChoice />
        <p className="text-[12px] text-soft">
          Written into the code with the rest; pads with a duty at boot are left alone. A pad can differ.
        </p>
      </Section>
      <WaiverList />
      <Section title="Signs">
        <ul className="grid grid-cols-2 gap-x-2">
          {Object.values(GLYPHS).map(({ shape, word }) => (
            <li key={word}>
              <span className="mr-1.5 inline-block w-3 text-center">{shape}</span>
              <span className="text-soft">{word}</span>
            </li>
          ))}
          <li>
            <span className="m mr-1.5">↑ ↓ od</span>
            <span className="text-soft">pulls, open-drain</span>
          </li>
          <li>
            <span className="m mr-1.5">H L</span>
            <span className="text-soft">output starts high, low</span>
          </li>
        </ul>
      </Section>
    </>
  );
}

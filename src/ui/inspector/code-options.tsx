'use client';

import { registerTokens } from '@/core/base/text/register-pattern';
import { prefixOf } from '@/core/derive/resolve/resolve';
import { type PlanField, planField } from '@/core/plan/edits/plan-set';
import { Segments } from '../parts/segments';
import { useActions, useDerived } from '../workspace/context';
import { Row, Section } from './section';
import { TextField } from './text-field';

const ON_OFF = [
  { value: 'off', label: 'no' },
  { value: 'on', label: 'yes' },
];

/** What else the plan says of its code: how it is divided, what it is called, how much it says. */
export function CodeOptions() {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan, device } = derived;
  const set = (field: PlanField, to: string) =>
    dispatch({ kind: 'plan.set', field, from: planField(plan, field), to });
  const choice = (label: string, field: PlanField, choices: { value: string; label: string }[]) => (
    <Row label={label}>
      <Segments
        label={label}
        value={planField(plan, field)}
        choices={choices}
        onChange={(value) => set(field, value)}
      />
    </Row>
  );
  const example = device.registers.all.find((one) => one.access.kind !== 'internal')?.name ?? 'PA.OUT';
  const pattern = plan.code.registers;
  const feeds = device.stages.some((stage) => stage.per === 'peripheral');
  const theirs = device.description.recipe.names;
  return (
    <Section title="How the code is made">
      {choice('functions', 'code.functions', [
        { value: 'one', label: 'one' },
        { value: 'circuits', label: 'one a circuit' },
      ])}
      {plan.code.functions === 'circuits' && <CircuitOrder />}
      {choice('deinit', 'code.deinit', ON_OFF)}
      {choice('comments', 'code.comments', [
        { value: 'all', label: 'all' },
        { value: 'stages', label: 'stages' },
        { value: 'none', label: 'none' },
      ])}
      {choice('hooks', 'code.hooks', ON_OFF)}
      {feeds && choice('clocks', 'code.peripheralClocks', ON_OFF)}
      {choice('C is', 'code.layout', [
        { value: 'two files', label: 'two files' },
        { value: 'header', label: 'one header' },
      ])}
      <Row label="files">
        <TextField
          label="Name of generated files"
          value={plan.code.file ?? ''}
          placeholder={prefixOf(plan)}
          maxLength={60}
          className="w-full"
          refuse={(text) =>
            /^([A-Za-z0-9_][A-Za-z0-9_-]*)?$/.test(text.trim())
              ? undefined
              : 'Letters, digits, underscores and hyphens.'
          }
          onCommit={(text) => set('code.file', text.trim())}
        />
      </Row>
      <Row label="registers">
        <TextField
          label="What your headers call registers"
          value={pattern ?? ''}
          placeholder="by their addresses"
          maxLength={80}
          className="m w-full"
          refuse={(text) =>
            text.trim() === '' || registerTokens(text.trim(), example)
              ? undefined
              : 'Names, {block}, {register} and -> . [ ] ( ), as in {block}->{register}.'
          }
          onCommit={(text) => set('code.registers', text.trim())}
        />
      </Row>
      {pattern !== undefined && (
        <Row label="from">
          <TextField
            label="Header that has these names"
            value={plan.code.include ?? ''}
            placeholder="registers.h"
            maxLength={80}
            className="m w-full"
            refuse={(text) =>
              /^([A-Za-z0-9_-]+[./])*[A-Za-z0-9_-]*$/.test(text.trim()) ? undefined : 'The path of a header.'
            }
            onCommit={(text) => set('code.include', text.trim())}
          />
        </Row>
      )}
      {theirs && pattern === undefined && (
        <button
          type="button"
          className="link"
          onClick={() => {
            set('code.registers', theirs.registers);
            if (theirs.include !== undefined) set('code.include', theirs.include);
          }}
        >
          as the maker’s headers call them
        </button>
      )}
      <p className="text-[12px] text-soft">
        {pattern === undefined
          ? 'Names of your own headers, for C: {block}->{register}, in lower case {block:lower}.'
          : `${example} is ${registerTokens(pattern, example)?.join('') ?? 'no expression'}; in C, not in its table.`}
      </p>
    </Section>
  );
}

/** The order of circuits: that of their functions, and of the lists. */
function CircuitOrder() {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { circuits } = derived.plan;
  return (
    <ol aria-label="Order of circuits" className="mb-1">
      {circuits.map(({ id, name }, at) => (
        <li key={id} className="flex items-center gap-1 pl-[78px]">
          <span className="min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap">{name}</span>
          {[-1, 1].map((step) => (
            <button
              key={step}
              type="button"
              className="link min-h-6 min-w-6 text-center disabled:invisible"
              aria-label={`${name} ${step < 0 ? 'earlier' : 'later'}`}
              disabled={at + step < 0 || at + step >= circuits.length}
              onClick={() => dispatch({ kind: 'circuit.move', id, from: at, to: at + step })}
            >
              {step < 0 ? '↑' : '↓'}
            </button>
          ))}
        </li>
      ))}
    </ol>
  );
}

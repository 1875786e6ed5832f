import type { ReactNode } from 'react';
import type { ApplicationChanges } from '@/core/compare/application';
import type { CodeChange, ComparedPlan, Comparison } from '@/core/compare/compare';
import type { FindingLine } from '@/core/compare/findings';
import { compilesText } from '@/core/compare/print';
import type { RegisterChange } from '@/core/compare/registers';

/** A comparison, section by section; each difference can be walked to. */
export function Differences({ comparison }: { comparison: Comparison }) {
  const { from, to, same, nets, others, findings, registers, application, code } = comparison;
  return (
    <>
      <table className="my-3 w-full border-collapse">
        <thead>
          <tr className="border-b border-ink text-left text-soft">
            <th className="py-1 font-medium">
              <span className="sr-only">Side</span>
            </th>
            <th className="py-1 pr-4 font-medium">Plan</th>
            <th className="py-1 pr-4 font-medium">Part · package</th>
            <th className="py-1 pr-4 font-medium">Findings</th>
            <th className="py-1 font-medium">Content</th>
          </tr>
        </thead>
        <tbody>
          <PlanRow label="from" plan={from} />
          <PlanRow label="to" plan={to} />
        </tbody>
      </table>
      {same && <p className="py-2 font-semibold">Nothing differs in what the plans say.</p>}
      <Section
        title="Nets"
        count={nets.added.length + nets.gone.length + nets.moved.length + nets.changed.length}
      >
        <Rows>
          {nets.added.map((one) => (
            <Row key={`+${one.name}`} mark="+" name={one.name} circuit={one.circuit}>
              new, {one.role}
              {one.at === '' ? ', without a pad' : <> on {one.at}</>}
            </Row>
          ))}
          {nets.gone.map((one) => (
            <Row key={`-${one.name}`} mark="−" name={one.name} circuit={one.circuit}>
              gone; was {one.role}
              {one.at !== '' && <> on {one.at}</>}
            </Row>
          ))}
          {nets.moved.map((one) => (
            <Row key={`>${one.name}`} mark="→" name={one.name} circuit={one.circuit}>
              <Change from={one.from || 'no pad'} to={one.to || 'no pad'} />
            </Row>
          ))}
          {nets.changed.map((one) => (
            <Row key={`~${one.name}`} mark="~" name={one.name} circuit={one.circuit}>
              {one.changes.map((change) => (
                <span key={change.what} className="mr-4 inline-block">
                  <span className="text-soft">{change.what}</span>{' '}
                  <Change from={change.from} to={change.to} />
                </span>
              ))}
            </Row>
          ))}
        </Rows>
      </Section>
      <Section title="Beside nets" count={others.length}>
        <Rows>
          {others.map((one) => (
            <Row
              key={`${one.what} ${one.from} ${one.to}`}
              mark={one.change === 'added' ? '+' : one.change === 'gone' ? '−' : '~'}
              name={one.what}
              circuit={one.circuits.join(', ')}
            >
              <Change from={one.from} to={one.to} />
            </Row>
          ))}
        </Rows>
      </Section>
      <Section title="Findings" count={findings.fresh.length + findings.cured.length}>
        <Rows>
          {findings.fresh.map((one) => (
            <FindingRow key={`+${one.rule} ${one.message}`} one={one} state="new" />
          ))}
          {findings.cured.map((one) => (
            <FindingRow key={`-${one.rule} ${one.message}`} one={one} state="cured" />
          ))}
        </Rows>
      </Section>
      <Application application={application} />
      <Section
        title="Registers"
        count={registers?.length ?? 0}
        says={registers === null ? 'The parts have other registers.' : undefined}
      >
        <div className="mt-1 grid gap-x-8 gap-y-2 lg:grid-cols-2">
          {registers?.map((one) => (
            <Register key={one.name} one={one} />
          ))}
        </div>
      </Section>
      <Section
        title="Code"
        count={code.files.length}
        says={code.why === undefined ? undefined : `No code is compared: ${code.why}.`}
      >
        {code.files.map((one) => (
          <Code key={one.path} one={one} />
        ))}
      </Section>
    </>
  );
}

function PlanRow({ label, plan }: { label: string; plan: ComparedPlan }) {
  return (
    <tr className="border-b border-rule align-baseline">
      <td className="py-1 pr-4 text-soft">{label}</td>
      <td className="pr-4 font-medium">
        {plan.name} {plan.revision !== '' && <span className="text-soft">rev {plan.revision}</span>}
      </td>
      <td className="pr-4">
        {plan.part} · {plan.package}
      </td>
      <td className="whitespace-nowrap pr-4">
        <span className={plan.findings.error > 0 ? 'text-err' : 'text-soft'}>▲ {plan.findings.error}</span>{' '}
        <span className={plan.findings.warning > 0 ? 'text-warn' : 'text-soft'}>
          △ {plan.findings.warning}
        </span>
      </td>
      <td className="m text-soft">{plan.fingerprint}</td>
    </tr>
  );
}

function Section({
  title,
  count,
  says,
  children,
}: {
  title: string;
  count: number;
  says?: string | undefined;
  children: ReactNode;
}) {
  if (count === 0 && says === undefined) return null;
  return (
    <section aria-label={title} className="mt-5">
      <h2 className="flex items-baseline gap-2 border-b border-ink pb-0.5 text-[17px] font-semibold">
        {title}
        {count > 0 && <span className="text-[13px] font-normal text-soft">{count}</span>}
      </h2>
      {says !== undefined && <p className="py-1">{says}</p>}
      {children}
    </section>
  );
}

const Rows = ({ children }: { children: ReactNode }) => <ul>{children}</ul>;

function Row({
  mark,
  name,
  circuit,
  children,
}: {
  mark: string;
  name: string;
  circuit: string;
  children: ReactNode;
}) {
  return (
    <li
      data-difference
      tabIndex={-1}
      className="grid grid-cols-[16px_minmax(120px,220px)_1fr] items-baseline gap-x-2 border-b border-rule py-1 focus:bg-pickbg"
    >
      <span aria-hidden className="m text-soft">
        {mark}
      </span>
      <span className="min-w-0 [overflow-wrap:anywhere]">
        <b className="font-semibold">{name}</b> <span className="text-soft">{circuit}</span>
      </span>
      <span className="min-w-0 [overflow-wrap:anywhere]">{children}</span>
    </li>
  );
}

const Change = ({ from, to }: { from: string; to: string }) => (
  <>
    <span className={from === '' ? 'text-soft' : ''}>{from === '' ? 'not said' : from}</span>
    <span className="text-soft"> → </span>
    <span className={to === '' ? 'text-soft' : 'font-medium'}>{to === '' ? 'not said' : to}</span>
  </>
);

function FindingRow({ one, state }: { one: FindingLine; state: 'new' | 'cured' }) {
  const bad = one.severity === 'error' ? 'text-err' : one.severity === 'warning' ? 'text-warn' : '';
  return (
    <Row mark={state === 'new' ? '+' : '−'} name={one.rule} circuit={one.circuits.join(', ')}>
      <span className={state === 'new' && !one.waived ? bad : 'text-soft'}>
        {state}
        {one.waived && ', waived'}:
      </span>{' '}
      {one.message}
    </Row>
  );
}

function Application({ application }: { application: ApplicationChanges }) {
  const { gone, declared, values, added, handlers, levels, compiles } = application;
  const count = [gone, declared, values, added, handlers, levels].reduce((sum, list) => sum + list.length, 0);
  return (
    <Section title="What the application sees" count={count} says="">
      <p className={`py-1 ${compiles ? '' : 'font-semibold text-err'}`}>
        <span aria-hidden>{compiles ? '✓ ' : '▲ '}</span>
        {compilesText(application)}
      </p>
      <Rows>
        {gone.map((one) => (
          <Row key={one.name} mark="−" name={one.name} circuit={one.circuit}>
            {one.handler ? 'is called no more' : 'is there no more'}
          </Row>
        ))}
        {declared.map((one) => (
          <Row key={one.name} mark="~" name={one.name} circuit={one.circuit}>
            <span className="m">
              <Change from={one.from} to={one.to} />
            </span>
          </Row>
        ))}
        {levels.map((one) => (
          <Row key={one.name} mark="~" name={one.name} circuit={one.circuit}>
            active {one.from} → active {one.to}: calls stay as they are, the pin goes the other way
          </Row>
        ))}
        {values.map((one) => (
          <Row key={one.name} mark="~" name={one.name} circuit={one.circuit}>
            <Change from={String(one.from)} to={String(one.to)} />
          </Row>
        ))}
        {handlers.map((one) => (
          <Row key={one.name} mark="+" name={one.name} circuit={one.circuit}>
            is called from now on; the application should have it
          </Row>
        ))}
        {added.map((one) => (
          <Row key={one.name} mark="+" name={one.name} circuit={one.circuit}>
            <span className="m text-soft">{one.declaration}</span>
          </Row>
        ))}
      </Rows>
    </Section>
  );
}

function Register({ one }: { one: RegisterChange }) {
  return (
    <div data-difference tabIndex={-1} className="break-inside-avoid focus:bg-pickbg">
      <h3 className="m flex flex-wrap gap-x-3 border-b border-rule py-0.5 font-semibold">
        {one.name}
        <span className="ml-auto font-normal">
          <Change from={one.from} to={one.to} />
        </span>
      </h3>
      <ul>
        {one.bits.map((bit) => (
          <li key={bit.bits} className="grid grid-cols-[52px_1fr_auto] gap-x-2">
            <span className="m text-soft">{bit.bits}</span>
            <span className="min-w-0 [overflow-wrap:anywhere]">
              {bit.field} {bit.pad !== '' && <span className="text-soft">of {bit.pad}</span>}{' '}
              {bit.nets.join(', ')}
            </span>
            <span className="m">
              <Change from={bit.from || 'as it was'} to={bit.to || 'as it was'} />
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

const TINTS: Readonly<Record<string, string>> = {
  '+': 'bg-pickbg',
  '-': 'text-soft line-through decoration-1',
};

function Code({ one }: { one: CodeChange }) {
  return (
    <div data-difference tabIndex={-1} className="mt-2 focus:bg-pickbg">
      <h3 className="m font-semibold">
        {one.path}{' '}
        <span className="font-normal text-soft">
          +{one.added} −{one.removed}
        </span>
      </h3>
      <section
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by key
        tabIndex={0}
        aria-label={`Lines of ${one.path} that differ`}
        className="m max-h-[60vh] overflow-auto whitespace-pre border border-rule bg-sheet py-1 print:max-h-none print:overflow-visible"
      >
        {one.lines.map((line, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines are told by where they stand
          <div key={at} className={`px-2 ${TINTS[line[0] ?? ' '] ?? ''}`}>
            {line === '' ? ' ' : line}
          </div>
        ))}
      </section>
    </div>
  );
}

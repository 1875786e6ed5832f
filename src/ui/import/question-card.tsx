'use client';

import type { HardwareAnswers, RegisterAnswer, TopicAnswer } from '@/core/import/ask/answers';
import { withBits, withShape } from '@/core/import/ask/hardware';
import { NONE, type Shape, shapeOf, type Topic } from '@/core/import/ask/topics';
import { type RoleValues, roleKind } from '@/core/import/attach/roles';
import { ShapePicture } from './shape-picture';

interface Props {
  topic: Topic;
  answer: TopicAnswer;
  answers: HardwareAnswers;
  problem: string | undefined;
  /** How many bits the codes of the function table need. */
  codeBits: number;
  /** `how` names what is changed: typing on in one field is one step back. */
  onChange: (next: TopicAnswer, how: string) => void;
}

const ACTS = (shape: Shape): boolean => shape.registers.some(({ role }) => roleKind(role).access === 'act');

/** A question: the usual shapes as pictures, and what the page of the document says of the one that it is. */
export function QuestionCard({ topic, answer, answers, problem, codeBits, onChange }: Props) {
  const chosen = shapeOf(topic, answer.shape);
  const shapes = topic.shapes.filter((shape) => answers.layout === 'port' || !ACTS(shape));
  return (
    <fieldset className="border-t border-rule py-2">
      <legend className="float-left w-full font-semibold">{topic.question}</legend>
      <p className="clear-both text-[12px] text-soft">{topic.hint}</p>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {!topic.needed && (
          <Choice
            name={topic.id}
            title="the part has none"
            chosen={!chosen}
            onChoose={() => onChange({ ...answer, shape: NONE }, `${topic.id} shape`)}
          />
        )}
        {shapes.map((shape) => (
          <Choice
            key={shape.id}
            name={topic.id}
            title={shape.title}
            chosen={chosen === shape}
            onChoose={() => onChange(withShape(answer, shape, codeBits), `${topic.id} shape`)}
          >
            <ShapePicture shape={shape} layout={answers.layout} />
          </Choice>
        ))}
      </div>
      {chosen && (
        <Details topic={topic} shape={chosen} answer={answer} answers={answers} onChange={onChange} />
      )}
      {chosen && <StillOpen message={problem} />}
    </fieldset>
  );
}

/** What a question still lacks, quietly; what cannot be, as an error. */
export function StillOpen({ message }: { message: string | undefined }) {
  if (message === undefined) return null;
  return (
    <p className={`mt-1 ${/not said yet$|^choose /.test(message) ? 'text-soft' : 'text-err'}`} role="status">
      {message}
    </p>
  );
}

function Choice({
  name,
  title,
  chosen,
  onChoose,
  children,
}: {
  name: string;
  title: string;
  chosen: boolean;
  onChoose: () => void;
  children?: React.ReactNode;
}) {
  return (
    <label
      className={`flex max-w-[188px] cursor-pointer items-start gap-1.5 border px-1.5 py-1 text-[12px] leading-tight ${chosen ? 'border-ink bg-pickbg' : 'border-rule hover:border-ink'}`}
    >
      <input type="radio" name={`question-${name}`} className="mt-px" checked={chosen} onChange={onChoose} />
      <span className="grid gap-1">
        {children}
        <span>{title}</span>
      </span>
    </label>
  );
}

/** What is asked of the registers of the chosen shape. */
function Details({
  topic,
  shape,
  answer,
  answers,
  onChange,
}: {
  topic: Topic;
  shape: Shape;
  answer: TopicAnswer;
  answers: HardwareAnswers;
  onChange: Props['onChange'];
}) {
  const port = answers.layout === 'port';
  const open = shape.registers.find((one) => one.bits === 'open');
  const widths = open ? roleKind(open.role).bits : [];
  const set = (role: Shape['registers'][number]['role'], change: Partial<RegisterAnswer>): void => {
    const before = answer.registers[role] ?? { name: '', offset: '', low: '', reset: '' };
    onChange(
      { ...answer, registers: { ...answer.registers, [role]: { ...before, ...change } } },
      `${topic.id} ${role} ${Object.keys(change).join()}`,
    );
  };
  return (
    <div className="mt-1.5 grid gap-1">
      {shape.registers.map(({ role, title }) => {
        const register = answer.registers[role] ?? { name: '', offset: '', low: '', reset: '' };
        const values = answer.values[role];
        return (
          <div key={role} className="flex flex-wrap items-baseline gap-x-2 gap-y-1">
            <span className="w-36 text-soft">{title}</span>
            <Typed
              label="name"
              what={title}
              wide
              value={register.name}
              onChange={(name) => set(role, { name })}
            />
            {port ? (
              <Typed
                label="offset"
                what={title}
                value={register.offset}
                placeholder="0x00"
                onChange={(offset) => set(role, { offset })}
              />
            ) : (
              <Typed
                label="lowest bit"
                what={title}
                value={register.low}
                placeholder="0"
                onChange={(low) => set(role, { low })}
              />
            )}
            {port && (
              <Typed
                label="after reset"
                what={title}
                value={register.reset}
                placeholder="0"
                onChange={(reset) => set(role, { reset })}
              />
            )}
            {values && Object.keys(values).length > 0 && (
              <NumbersOf
                what={title}
                values={values}
                usual={roleKind(role).free ? values : roleKind(role).values}
                free={roleKind(role).free === true}
                onChange={(next) =>
                  onChange(
                    { ...answer, values: { ...answer.values, [role]: next } },
                    `${topic.id} ${role} values`,
                  )
                }
              />
            )}
          </div>
        );
      })}
      {open && (
        <div className="flex flex-wrap items-baseline gap-x-2">
          <span className="w-36 text-soft">{open.title}</span>
          <label className="inline-flex items-baseline gap-1">
            <span className="text-soft">bits of each pad</span>
            <select
              className="m !h-6 !py-0"
              value={answer.bits}
              onChange={(event) => {
                const bits = Number(event.target.value);
                onChange(withBits(answer, shape, bits), `${topic.id} bits`);
              }}
            >
              {widths.map((bits) => (
                <option key={bits}>{bits}</option>
              ))}
            </select>
          </label>
          {port && (
            <label className="inline-flex items-baseline gap-1">
              <span className="text-soft">every so many bits</span>
              <select
                className="m !h-6 !py-0"
                value={answer.stride}
                onChange={(event) =>
                  onChange({ ...answer, stride: Number(event.target.value) }, `${topic.id} stride`)
                }
              >
                {[1, 2, 3, 4, 5, 6, 8, 16]
                  .filter((stride) => stride >= answer.bits)
                  .map((stride) => (
                    <option key={stride}>{stride}</option>
                  ))}
              </select>
            </label>
          )}
        </div>
      )}
    </div>
  );
}

export function Typed({
  label,
  what,
  value,
  placeholder,
  wide = false,
  onChange,
}: {
  label: string;
  what: string;
  value: string;
  placeholder?: string;
  wide?: boolean;
  onChange: (value: string) => void;
}) {
  return (
    <label className="inline-flex items-baseline gap-1">
      <span className="text-soft">{label}</span>
      <input
        aria-label={`${label} of ${what}`}
        className={`m !h-6 !px-1 !py-0 ${wide ? 'w-24' : 'w-20'}`}
        value={value}
        placeholder={placeholder}
        spellCheck={false}
        maxLength={40}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

/** The numbers of values; a value whose number is taken away is one that the part has not. */
function NumbersOf({
  what,
  values,
  usual,
  free,
  onChange,
}: {
  what: string;
  values: RoleValues;
  /** All values that there can be. */
  usual: RoleValues;
  free: boolean;
  onChange: (values: Record<string, number>) => void;
}) {
  return (
    <span className="flex basis-full flex-wrap items-baseline gap-x-2 pl-[9.5rem]">
      {Object.keys(usual).map((name, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a name that is being typed must keep its field
        <span key={index} className="inline-flex items-baseline gap-1">
          {free ? (
            <input
              aria-label={`Name of value ${values[name]} of ${what}`}
              className="m w-16 !h-6 !px-1 !py-0"
              value={name}
              onChange={(event) => {
                const next = event.target.value.replace(/[^A-Za-z0-9.-]/g, '');
                if (next === '' || (next !== name && Object.hasOwn(values, next))) return;
                onChange(
                  Object.fromEntries(
                    Object.entries(values).map(([key, value]) => [key === name ? next : key, value]),
                  ),
                );
              }}
            />
          ) : (
            <span className="text-soft">{name}</span>
          )}
          <input
            aria-label={`Value of ${name} for ${what}`}
            className="m w-9 !h-6 !px-1 !py-0 text-right"
            inputMode="numeric"
            value={values[name] ?? ''}
            onChange={(event) => {
              const next = Number.parseInt(event.target.value, 10);
              const { [name]: _old, ...others } = values;
              // In their usual order; without a number the part has no such value.
              const all: Record<string, number> = Number.isNaN(next) ? others : { ...others, [name]: next };
              onChange(
                Object.fromEntries(
                  Object.keys(usual).flatMap((key) => (key in all ? [[key, all[key] ?? 0]] : [])),
                ),
              );
            }}
          />
        </span>
      ))}
    </span>
  );
}

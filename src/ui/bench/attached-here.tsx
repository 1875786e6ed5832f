'use client';

import { useState } from 'react';
import { newId } from '@/core/base/text/new-id';
import type { BoardAttachment } from '@/core/bench/attached/defaults';
import { addAttachment, changeAttachment, removeAttachment } from '@/core/plan/edits/make-edits';
import {
  ATTACHMENT_KINDS,
  ATTACHMENTS,
  type Attachment,
  type AttachmentKind,
  attachmentMeta,
  figuresOf,
} from '@/core/plan/model/attachments';
import type { Net } from '@/core/plan/model/types';
import { useActions, useDerived } from '../workspace/context';
import type { BenchStore } from './bench-store';

/** What is attached to a net: what follows from its demands, or what somebody says instead. */
export function AttachedHere({ store, net }: { store: BenchStore; net: Net }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan } = derived;
  const { setup } = store.recording.play.bench;
  const stated: BoardAttachment[] = (plan.attachments ?? []).filter(({ nets }) => nets.includes(net.id));
  const parts = (setup.partsAt.get(net.id) ?? []).flatMap((at) => setup.parts[at]?.attachment ?? []);
  const shown = stated.length > 0 ? stated : parts;

  /** What follows from the net becomes part of the plan as soon as something about it is changed, or confirmed. */
  function state(changed?: BoardAttachment, to?: Attachment) {
    for (const part of parts) {
      const { kind, nets, figures } = part === changed && to ? to : part;
      dispatch(addAttachment(plan, { id: newId(), kind, nets, ...(figures ? { figures } : {}) }));
    }
  }
  function set(attachment: BoardAttachment, to: Attachment) {
    if (stated.includes(attachment)) dispatch(changeAttachment(plan, attachment, to));
    else state(attachment, to);
  }
  function remove(attachment: Attachment) {
    if (stated.includes(attachment)) dispatch(removeAttachment(plan, attachment));
  }
  const isAssumed = parts.some(({ assumed }) => assumed);
  return (
    <section aria-label="Attached">
      <h3 className="font-semibold">
        Attached{' '}
        {stated.length === 0 && shown.length > 0 && (
          <span className="font-normal text-soft">
            {isAssumed
              ? 'assumed from the net’s role, name and settings'
              : 'as follows from what the net demands'}
          </span>
        )}
        {stated.length === 0 && isAssumed && (
          <button type="button" className="link ml-2 font-normal leading-6" onClick={() => state()}>
            that is right
          </button>
        )}
      </h3>
      {shown.length === 0 && <p className="text-soft">Nothing that is known of.</p>}
      {shown.map((attachment) => (
        <AttachmentFigures
          key={attachment.id}
          attachment={attachment}
          stated={stated.includes(attachment)}
          onChange={(to) => set(attachment, to)}
          onRemove={() => remove(attachment)}
        />
      ))}
      <AddAttached net={net} onAdd={(attachment) => dispatch(addAttachment(plan, attachment))} />
    </section>
  );
}

function AttachmentFigures({
  attachment,
  stated,
  onChange,
  onRemove,
}: {
  attachment: Attachment;
  stated: boolean;
  onChange: (to: Attachment) => void;
  onRemove: () => void;
}) {
  const { derived } = useDerived();
  const meta = attachmentMeta(attachment.kind);
  const figures = figuresOf(attachment);
  const names = attachment.nets.map((id) => derived.byNet.get(id)?.net.name ?? '');
  return (
    <div className="border-b border-rule py-1">
      <div className="flex items-baseline gap-2">
        <span className="mr-auto font-medium">{meta.title}</span>
        {stated && (
          <button type="button" className="link leading-6" onClick={onRemove}>
            take off
          </button>
        )}
      </div>
      {names.length > 1 && (
        <p className="text-soft">{names.map((name, at) => `${meta.poles[at]}: ${name}`).join(', ')}</p>
      )}
      <div className="grid grid-cols-[1fr_auto] items-center gap-x-2">
        {Object.entries(meta.figures).map(([key, { title, unit, least, most }]) => (
          <div key={key} className="contents">
            <span className="text-soft">{title}</span>
            <span className="flex items-center gap-1">
              <FigureInput
                label={`${title} of the ${meta.title}`}
                value={figures[key] ?? 0}
                least={least}
                most={most}
                onCommit={(value) =>
                  onChange({ ...attachment, figures: { ...attachment.figures, [key]: value } })
                }
              />
              <span className="m w-5 text-soft">{unit}</span>
            </span>
          </div>
        ))}
      </div>
    </div>
  );
}

function FigureInput({
  label,
  value,
  least,
  most,
  onCommit,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  onCommit: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const wrong = text !== null && !(Number(text) >= least && Number(text) <= most);
  function commit() {
    if (text !== null && !wrong && Number(text) !== value) onCommit(Number(text));
    if (!wrong) setText(null);
  }
  return (
    <input
      className="m w-24 py-0.5 text-right"
      inputMode="decimal"
      aria-label={label}
      aria-invalid={wrong}
      title={wrong ? `from ${least} to ${most}` : undefined}
      value={text ?? String(value)}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') commit();
        if (event.key === 'Escape') setText(null);
      }}
    />
  );
}

/** Something more: its kind, and for what has several poles the nets of the others. */
function AddAttached({ net, onAdd }: { net: Net; onAdd: (attachment: Attachment) => void }) {
  const { derived } = useDerived();
  const [kind, setKind] = useState<AttachmentKind | ''>('');
  const [others, setOthers] = useState('');
  const meta = kind === '' ? undefined : attachmentMeta(kind);
  const least = meta ? (meta.least ?? meta.poles.length) : 1;
  const named = others
    .split(/[\s,]+/)
    .filter(Boolean)
    .map((name) => derived.plan.nets.find((one) => one.name.toLowerCase() === name.toLowerCase()));
  const nets = [net, ...named];
  const unknown = named.includes(undefined);
  const count = nets.length;
  const fits = meta !== undefined && !unknown && count >= least && count <= meta.poles.length;
  return (
    <form
      className="mt-1.5 flex flex-wrap items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (!fits || kind === '') return;
        onAdd({ id: newId(), kind, nets: nets.flatMap((one) => one?.id ?? []) });
        setKind('');
        setOthers('');
      }}
    >
      <select
        aria-label="Attach"
        className="py-0.5"
        value={kind}
        onChange={(event) => setKind(event.target.value as AttachmentKind)}
      >
        <option value="" disabled>
          attach …
        </option>
        {ATTACHMENT_KINDS.map((one) => (
          <option key={one} value={one}>
            {ATTACHMENTS[one].title}
          </option>
        ))}
      </select>
      {meta && meta.poles.length > 1 && (
        <input
          aria-label="The other nets, in the order of the poles"
          placeholder={meta.poles.slice(1, 4).join(', ')}
          className="min-w-0 flex-1 py-0.5"
          aria-invalid={unknown}
          value={others}
          onChange={(event) => setOthers(event.target.value)}
        />
      )}
      {kind !== '' && (
        <button type="submit" className="button" disabled={!fits}>
          Attach
        </button>
      )}
      {unknown && <span className="w-full text-err">One of these is no net of the plan.</span>}
    </form>
  );
}

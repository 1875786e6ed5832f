'use client';

import type { DraftReading, PartDraft, Rest } from '@/core/import/compose/draft';
import { ScrollRegion } from '../parts/scroll-region';
import { PackageFields } from './package-fields';
import { Field } from './part-fields';
import { ElectricalSection, PeripheralSection } from './part-sections';

interface Props {
  draft: PartDraft;
  reading: DraftReading;
  /** The part exists already: its id stays. */
  fixedId: boolean;
  onDraft: (draft: PartDraft) => void;
}

/** What the tables do not say: names, voltages, shapes, directions, notes. All of it is filled in as far as it can be told. */
export function PartStep({ draft, reading, fixedId, onDraft }: Props) {
  const { device, rest } = draft;
  const { file } = reading;
  const setDevice = (change: Partial<PartDraft['device']>): void =>
    onDraft({ ...draft, device: { ...device, ...change } });
  const setRest = (change: Partial<Rest>): void => onDraft({ ...draft, rest: { ...rest, ...change } });
  const source = device.source ?? { document: '' };
  return (
    <ScrollRegion label="The part" className="h-full px-6 py-3">
      <div className="grid max-w-6xl gap-x-12 gap-y-5 lg:grid-cols-2">
        <section>
          <h2 className="mb-1 font-semibold">The part</h2>
          <div className="grid grid-cols-[110px_1fr] items-baseline gap-x-2 gap-y-1.5">
            <Field
              label="name"
              value={device.name}
              placeholder="as the data sheet calls it"
              onChange={(name) => setDevice({ name, ...(fixedId ? {} : { id: idFrom(name) }) })}
            />
            <Field
              label="id"
              mono
              disabled={fixedId}
              value={device.id}
              placeholder="in plan files"
              onChange={(id) => setDevice({ id })}
            />
            <Field label="maker" value={device.maker} onChange={(maker) => setDevice({ maker })} />
            <Field
              label="in a sentence"
              value={device.summary}
              onChange={(summary) => setDevice({ summary })}
            />
            <Field
              label="document"
              value={source.document}
              placeholder="data sheet"
              onChange={(document) => setDevice({ source: { ...source, document } })}
            />
            <Field
              label="revision"
              value={source.revision ?? ''}
              onChange={(revision) => setDevice({ source: { ...source, revision } })}
            />
          </div>
        </section>
        <section>
          <h2 className="mb-1 font-semibold">Packages</h2>
          {file.packages.map((one) => (
            <PackageFields
              key={one.id}
              id={one.id}
              name={one.name}
              shape={one.shape}
              removes={one.removes ?? []}
              pins={reading.pads.flatMap((pad) =>
                pad.pins.filter((t) => t.package === one.id).map((t) => t.pin),
              )}
              onChange={(change) =>
                setRest({ packages: { ...rest.packages, [one.id]: { ...rest.packages[one.id], ...change } } })
              }
            />
          ))}
          {file.packages.length === 0 && <p className="text-soft">They come with the pinout table.</p>}
        </section>
        <ElectricalSection file={file} rest={rest} onRest={setRest} />
        <PeripheralSection file={file} rest={rest} onRest={setRest} />
      </div>
    </ScrollRegion>
  );
}

/** `Corvane C40-80` → `corvane-c40-80`. */
export const idFrom = (name: string): string =>
  name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);

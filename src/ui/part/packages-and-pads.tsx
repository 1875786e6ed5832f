'use client';

import Link from 'next/link';
import { useMemo, useState } from 'react';
import { hasWords, wordsOf } from '@/core/base/text/search-words';
import { sourceText } from '@/core/description/source';
import type { Package, Pad } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { shapeName } from '@/core/import/compose/infer';
import { SourceLink } from '../parts/source-link';
import { type Column, VirtualTable } from '../parts/virtual-table';

/** The packages with their notes, and every pad with its pin in each. */
export function PackagesAndPads({ device }: { device: Device }) {
  const { description } = device;
  const { packages } = description;
  const [text, setText] = useState('');
  const shown = useMemo(() => {
    const words = wordsOf(text);
    if (words.length === 0) return description.pads;
    return description.pads.filter((pad) => {
      const pins = packages.flatMap((one) => device.pinsOf.get(one.id)?.get(pad.id) ?? []);
      const numbers = pins.map((pin) => `pin ${pin}`);
      return hasWords(words, [
        pad.id,
        pad.kind,
        pad.class,
        pad.supply,
        pad.boot?.kind,
        ...(pad.aliases ?? []),
        ...numbers,
      ]);
    });
  }, [description.pads, packages, device, text]);
  const columns: Column<Pad>[] = [
    { title: 'pad', width: '76px', className: 'm', cell: (pad) => pad.id },
    { title: 'kind', width: '84px', cell: (pad) => pad.kind },
    {
      title: 'port bit',
      width: '64px',
      className: 'm',
      cell: (pad) => (pad.port === undefined ? '' : `${pad.port} ${pad.bit}`),
    },
    { title: 'supply', width: '64px', className: 'm', cell: (pad) => pad.supply },
    { title: 'class', width: '70px', className: 'm', cell: (pad) => pad.class },
    ...packages.map((one): Column<Pad> => {
      const pins = (pad: Pad): string => (device.pinsOf.get(one.id)?.get(pad.id) ?? []).join(' ');
      return {
        title: one.id,
        width: '96px',
        className: 'm',
        cell: (pad) => pins(pad) || <span className="text-soft">╳</span>,
        hint: pins,
      };
    }),
    { title: 'also called', width: '130px', className: 'm', cell: (pad) => pad.aliases?.join(' ') },
    {
      title: 'notes and source',
      width: 'minmax(220px,1fr)',
      className: 'text-soft',
      cell: (pad) => (
        <>
          {padWords(device, pad)}
          {pad.source && <SourceLink source={pad.source} />}
        </>
      ),
      hint: (pad) => [padWords(device, pad), pad.source && sourceText(pad.source)].filter(Boolean).join(''),
    },
  ];
  return (
    <div className="flex h-full flex-col">
      <ul className="grid max-h-[34%] shrink-0 gap-x-8 gap-y-2 overflow-auto border-b border-rule px-6 py-2 [grid-template-columns:repeat(auto-fill,minmax(300px,1fr))]">
        {packages.map((one) => (
          <li key={one.id}>
            <PackageFacts pkg={one} device={device} />
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-3 px-6 py-1.5">
        <input
          aria-label="Filter the pads"
          placeholder="pad, pin, class, alias …"
          className="w-56"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span className="text-soft" role="status">
          {shown.length} of {description.pads.length} pads
        </span>
      </div>
      <div className="min-h-0 flex-1">
        <VirtualTable label="Pads" columns={columns} items={shown} keyOf={(pad) => pad.id} />
      </div>
      <p className="border-t border-rule px-6 py-1 text-[12px] text-soft">
        Something is wrong here?{' '}
        <Link className="link" prefetch={false} replace href="?tab=corrections">
          Correct it
        </Link>
        ; the original stays visible.
      </p>
    </div>
  );
}

function PackageFacts({ pkg, device }: { pkg: Package; device: Device }) {
  const pins = Object.values(pkg.pins);
  const io = pins.filter((pad) => device.pads.get(pad)?.kind === 'io').length;
  return (
    <>
      <b className="font-semibold">{pkg.name}</b> <span className="m text-soft">{pkg.id}</span>
      <span className="text-soft">
        {' '}
        · {shapeName(pkg.shape)}, {pins.length} pins, {io} I/O
      </span>
      {pkg.source && <span className="text-[12px] text-soft"> · {sourceText(pkg.source)}</span>}
      {(pkg.removes ?? []).map((one) => (
        <p key={one.why} className="text-[12px] text-soft">
          {one.highestHertz === undefined ? 'takes away: ' : 'limits: '}
          {one.why}
          {one.source && ` (${sourceText(one.source)})`}
        </p>
      ))}
    </>
  );
}

function padWords(device: Device, pad: Pad): string {
  const parts = (pad.notes ?? []).map((note) => `note ${note}: ${device.description.notes[note] ?? ''}`);
  if (pad.boot) parts.push(`${pad.boot.kind}: ${pad.boot.note}`);
  return parts.length > 0 ? `${parts.join(' · ')} · ` : '';
}

'use client';

import { useMemo, useState } from 'react';
import { hexText } from '@/core/base/text/hex';
import { hasWords, wordsOf } from '@/core/base/text/search-words';
import { hasRecipe } from '@/core/description/recipe';
import { clauseLines } from '@/core/device/clauses/clause-lines';
import type { Device } from '@/core/device/device';
import { behaviourText } from '@/core/device/registers/register-text';
import type { Register } from '@/core/device/registers/types';
import { type Column, VirtualTable } from '../parts/virtual-table';
import { NoRecipe } from './no-recipe';

/** Every register: both addresses side by side, each in hexadecimal and decimal, reset value and behaviour. */
export function Registers({ device, find = '' }: { device: Device; find?: string }) {
  const { recipe } = device.description;
  const [text, setText] = useState(find);
  // Clauses speak of state that no address reaches.
  const inClauses = device.registers.all.some((one) => one.clauses !== undefined);
  const all = useMemo(
    () => device.registers.all.filter((one) => one.access.kind !== 'internal' || inClauses),
    [device.registers, inClauses],
  );
  const views = all.some((one) => one.documentAddress !== undefined);
  const shown = useMemo(() => {
    const words = wordsOf(text);
    if (words.length === 0) return all;
    const [only = ''] = words;
    const wanted = words.length === 1 && /^(0x[0-9a-f]+|\d+)$/.test(only) ? Number(only) : undefined;
    return all.filter(
      (one) =>
        hasWords(words, [one.name, one.title]) ||
        (wanted !== undefined && (one.address === wanted || one.documentAddress === wanted)),
    );
  }, [all, text]);
  if (!hasRecipe(recipe)) return <NoRecipe device={device} />;
  const documentName = recipe.addresses?.document ?? 'document';
  const cpuName = recipe.addresses?.cpu ?? 'CPU address';
  const documentViews: Column<Register>[] = [
    {
      title: `${documentName}, hex`,
      width: '116px',
      className: 'm',
      cell: (one) => (one.documentAddress === undefined ? '' : hexText(one.documentAddress, 8)),
    },
    {
      title: `${documentName}, dec`,
      width: '116px',
      className: 'm text-soft',
      cell: (one) => one.documentAddress,
    },
  ];
  const behaviour = (one: Register): string => {
    if (!one.clauses) return behaviourText(one);
    const lines = clauseLines(device.registers, one);
    return one.access.kind === 'internal'
      ? ['internal state', ...lines.slice(1)].join('; ')
      : [one.title, ...lines].filter(Boolean).join('; ');
  };
  const columns: Column<Register>[] = [
    { title: 'register', width: '150px', className: 'm', cell: (one) => one.name },
    ...(views ? documentViews : []),
    {
      title: `${cpuName}, hex`,
      width: '120px',
      className: 'm',
      cell: (one) =>
        one.access.kind === 'internal' ? 'none' : hexText(one.address, one.address > 0xffff ? 32 : 16),
    },
    {
      title: `${cpuName}, dec`,
      width: '120px',
      className: 'm text-soft',
      cell: (one) => (one.access.kind === 'internal' ? '' : one.address),
    },
    { title: 'bits', width: '44px', className: 'm', cell: (one) => one.width ?? one.bits },
    { title: 'reset', width: '100px', className: 'm', cell: (one) => hexText(one.reset, one.bits) },
    {
      title: 'what it is',
      width: 'minmax(260px,1fr)',
      cell: behaviour,
      hint: behaviour,
    },
  ];
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-3 px-6 py-1.5">
        <input
          aria-label="Filter the registers"
          placeholder="name, title, address …"
          className="w-56"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span className="text-soft" role="status">
          {shown.length} of {all.length} registers
        </span>
        <span className="ml-auto text-soft">
          {recipe.endian}-endian
          {views ? ` · the document counts in ${documentName}, the code in ${cpuName}` : ''}
        </span>
      </div>
      <div className="min-h-0 flex-1">
        <VirtualTable label="Registers" columns={columns} items={shown} keyOf={(one) => one.name} />
      </div>
    </div>
  );
}

'use client';

import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import { REGISTER_FORMS } from '@/core/description/part-forms';
import { sourceText } from '@/core/description/source';
import type { Device } from '@/core/device/device';
import type { PartSummary } from '@/core/device/part-facts';
import { api } from '../client/api';
import { openPart } from '../client/parts';
import { PageHead } from '../parts/page-head';
import { May } from '../people/me';
import { Corrections } from './corrections';
import { PackagesAndPads } from './packages-and-pads';
import { PartFunctions } from './part-functions';
import { Peripherals } from './peripherals';
import { type PlanLine, PlansAndVersions } from './plans-and-versions';
import { RecipeTrial } from './recipe-trial';
import { Registers } from './registers';

const TABS = [
  { id: 'pads', title: 'Packages and pads' },
  { id: 'functions', title: 'Functions' },
  { id: 'peripherals', title: 'Peripherals' },
  { id: 'registers', title: 'Registers' },
  { id: 'text', title: 'Text' },
  { id: 'recipe', title: 'Recipe' },
  { id: 'corrections', title: 'Corrections' },
  { id: 'plans', title: 'Plans' },
] as const;
/** The editor is fetched where it is used. */
const PartText = dynamic(() => import('./text/part-text').then((module) => module.PartText), {
  ssr: false,
  loading: () => (
    <p className="p-6 text-soft" aria-busy="true">
      Opening the text …
    </p>
  ),
});

type TabId = (typeof TABS)[number]['id'];

interface Props {
  summary: PartSummary;
  plans: PlanLine[];
  versions: { fingerprint: string; at: string }[];
}

/** Everything Mavrek knows of a part, and how to change it. */
export function PartPage({ summary, plans, versions }: Props) {
  const router = useRouter();
  const params = useSearchParams();
  const tab: TabId = TABS.find((one) => one.id === params.get('tab'))?.id ?? 'pads';
  const [device, setDevice] = useState<Device | null>(null);
  const [problem, setProblem] = useState('');

  useEffect(() => {
    let current = true;
    void openPart(summary.id, summary.fingerprint).then((part) => {
      if (!current) return;
      if (part.ok) setDevice(part.device);
      else setProblem(part.message);
    });
    return () => {
      current = false;
    };
  }, [summary.id, summary.fingerprint]);

  async function remove() {
    const answer = await api.removePart(summary.id);
    if (answer.ok) router.push('/parts');
    else setProblem(answer.problems[0]?.message ?? 'could not be removed');
  }

  const file = (as: string): string => `/api/devices/${summary.id}/export?as=${as}`;
  return (
    <div className="flex h-dvh flex-col overflow-hidden">
      <PageHead here="/parts" />
      <main className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-rule bg-sheet px-6 pb-1 pt-2.5">
          <h1 className="text-[19px] font-semibold">{summary.name}</h1>
          <span className="mr-auto text-soft">
            {summary.maker && `${summary.maker} · `}
            <span className="m">{summary.id}</span>
          </span>
          <span className="flex flex-wrap gap-x-3">
            <span className="text-soft">take away</span>
            <a className="link" href={file('text')} download>
              text
            </a>
            <a className="link" href={file('tables')} download>
              tables
            </a>
            <a className="link" href={file('json')} download>
              JSON
            </a>
            {summary.recipe &&
              REGISTER_FORMS.map(({ id, title }) => (
                <a key={id} className="link" href={file(id)} download>
                  {title}
                </a>
              ))}
          </span>
          <May right="edit">
            <span className="flex flex-wrap gap-x-3">
              <Link className="link" prefetch={false} href={`/parts/import?like=${summary.id}`}>
                start a variant
              </Link>
              <Link className="link" prefetch={false} href={`/parts/import?part=${summary.id}`}>
                import anew
              </Link>
              {summary.plans === 0 && !summary.shipped && (
                <button type="button" className="link" onClick={() => void remove()}>
                  remove
                </button>
              )}
            </span>
          </May>
          <p className="w-full text-[12px] text-soft">
            {summary.summary && <span className="text-[13px]">{summary.summary} · </span>}
            content <span className="m">{summary.fingerprint}</span>, revision {summary.revision}
            {device?.original.source && ` · from ${sourceText(device.original.source)}`}
            {summary.shipped && ' · comes with Mavrek'}
          </p>
          {problem !== '' && (
            <p role="alert" className="w-full text-err">
              {problem}
            </p>
          )}
        </div>
        <nav aria-label="About the part" className="flex flex-wrap gap-0.5 border-b border-ink bg-sheet px-4">
          {TABS.map((one) => (
            <Link
              key={one.id}
              prefetch={false}
              replace
              scroll={false}
              href={`?tab=${one.id}`}
              aria-current={tab === one.id ? 'page' : undefined}
              className={`border-b-2 px-2 py-1 ${tab === one.id ? 'border-pick font-medium' : 'border-transparent text-soft hover:text-ink'}`}
            >
              {one.title}
              {one.id === 'recipe' && (device?.description.unconfirmed?.length ?? 0) > 0 && (
                <span className="text-warn"> △ {device?.description.unconfirmed?.length} not confirmed</span>
              )}
              {one.id === 'corrections' && summary.corrections > 0 && ` (${summary.corrections})`}
              {one.id === 'plans' && summary.plans > 0 && ` (${summary.plans})`}
            </Link>
          ))}
        </nav>
        <div className="min-h-0 flex-1">
          {!device ? (
            <p className="p-6 text-soft" aria-busy="true">
              Reading the part …
            </p>
          ) : tab === 'pads' ? (
            <PackagesAndPads device={device} />
          ) : tab === 'functions' ? (
            <PartFunctions device={device} />
          ) : tab === 'peripherals' ? (
            <Peripherals device={device} />
          ) : tab === 'registers' ? (
            <Registers device={device} find={params.get('find') ?? ''} />
          ) : tab === 'text' ? (
            <PartText device={device} summary={summary} />
          ) : tab === 'recipe' ? (
            <RecipeTrial device={device} summary={summary} />
          ) : tab === 'corrections' ? (
            <Corrections device={device} summary={summary} what={params.getAll('what')} />
          ) : (
            <PlansAndVersions plans={plans} versions={versions} summary={summary} />
          )}
        </div>
      </main>
    </div>
  );
}

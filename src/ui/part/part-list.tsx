import { Plus } from 'lucide-react';
import Link from 'next/link';
import type { PartSummary } from '@/core/device/part-facts';
import { PageHead } from '../parts/page-head';
import { May } from '../people/me';

/** All parts that are here, with what one chooses by. */
export function PartList({ parts }: { parts: PartSummary[] }) {
  return (
    <div className="min-h-full">
      <PageHead here="/parts" />
      <main className="mx-auto max-w-5xl px-6 py-8">
        <div className="mb-4 flex flex-wrap items-center gap-2">
          <h1 className="mr-auto text-xl font-semibold">Parts</h1>
          <May right="edit">
            <Link
              prefetch={false}
              href="/parts/import"
              className="button button-strong inline-flex items-center gap-1.5"
            >
              <Plus size={14} aria-hidden /> Import a part
            </Link>
          </May>
        </div>
        {parts.length === 0 ? (
          <p className="border-t border-ink py-6 text-soft">
            No parts yet. Bring one in from its pinout and function tables with{' '}
            <b className="font-semibold text-ink">Import a part</b>.
          </p>
        ) : (
          <table className="w-full border-collapse">
            <thead>
              <tr className="border-b border-ink text-left text-soft">
                <th className="py-1 font-medium">Part</th>
                <th className="py-1 font-medium max-sm:hidden">Packages</th>
                <th className="py-1 text-right font-medium max-md:hidden">I/O pads</th>
                <th className="py-1 text-right font-medium max-md:hidden">Functions</th>
                <th className="py-1 text-right font-medium max-md:hidden">Registers</th>
                <th className="py-1 text-right font-medium max-lg:hidden">Corrections</th>
                <th className="py-1 text-right font-medium">Plans</th>
              </tr>
            </thead>
            <tbody>
              {parts.map((part) => (
                <tr key={part.id} className="border-b border-rule align-baseline hover:bg-sheet">
                  <td className="py-1.5 pr-4">
                    <Link
                      prefetch={false}
                      href={`/parts/${part.id}`}
                      className="text-[15px] font-medium hover:underline"
                    >
                      {part.name}
                    </Link>{' '}
                    <span className="text-soft">{part.maker}</span>
                    <br />
                    <span className="text-soft">{part.summary}</span>
                  </td>
                  <td className="pr-4 text-soft max-sm:hidden">
                    {part.packages.map((one) => one.name).join(' · ')}
                  </td>
                  <td className="m text-right max-md:hidden">{part.ioPads}</td>
                  <td className="m text-right max-md:hidden">{part.functions}</td>
                  <td className="m text-right max-md:hidden">
                    {part.recipe ? part.registers : <span className="text-warn">no recipe</span>}
                  </td>
                  <td className="m text-right max-lg:hidden">{part.corrections || '–'}</td>
                  <td className="m text-right">{part.plans || '–'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
    </div>
  );
}

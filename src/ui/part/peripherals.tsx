'use client';

import { sourceText } from '@/core/description/source';
import { splitSignal } from '@/core/description/types';
import type { Device } from '@/core/device/device';
import { hertzText, offerOf } from '@/core/device/offers';
import { ScrollRegion } from '../parts/scroll-region';

/** Instances with their lines, the number of pads that carry each in every package, and rates. */
export function Peripherals({ device }: { device: Device }) {
  const { description } = device;
  const linesOf = (id: string): string[] => [
    ...new Set(
      description.functions
        .filter((fn) => splitSignal(fn.signal)[0] === id)
        .map((fn) => splitSignal(fn.signal)[1]),
    ),
  ];
  return (
    <ScrollRegion label="Peripherals" className="h-full px-6 py-2">
      <table className="w-full border-collapse">
        <thead className="sticky top-0 bg-paper">
          <tr className="border-b border-ink text-left text-soft">
            <th className="py-1 pr-3 font-medium">Instance</th>
            <th className="pr-3 font-medium">Kind</th>
            <th className="pr-3 font-medium">Lines, and on how many pads of the part each is</th>
            <th className="pr-3 font-medium">Highest rate</th>
            {description.packages.map((one) => (
              <th key={one.id} className="pr-3 font-medium">
                {one.id}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {description.peripherals.map((one) => {
            const lines = linesOf(one.id);
            return (
              <tr
                key={one.id}
                className="border-b border-rule align-baseline"
                title={one.source && `from ${sourceText(one.source)}`}
              >
                <th scope="row" className="m py-1 pr-3 text-left font-medium">
                  {one.id}
                </th>
                <td className="whitespace-nowrap pr-3 text-soft">
                  {description.peripheralKinds[one.kind]?.title ?? one.kind}
                </td>
                <td className="m pr-3">
                  {lines.map((line) => (
                    <span key={line} className="mr-2.5 inline-block">
                      {line}
                      <sub className="text-soft">
                        {device.functionsBySignal.get(`${one.id}.${line}`)?.length}
                      </sub>
                    </span>
                  ))}
                </td>
                <td className="whitespace-nowrap pr-3">
                  {one.highestHertz === undefined ? (
                    <span className="text-soft">not stated</span>
                  ) : (
                    hertzText(one.highestHertz)
                  )}
                </td>
                {description.packages.map((pkg) => (
                  <td key={pkg.id} className="pr-3 text-soft">
                    {packageWords(device, pkg.id, one.id, lines)}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
    </ScrollRegion>
  );
}

/** What of an instance a package has. */
function packageWords(device: Device, packageId: string, instance: string, lines: readonly string[]): string {
  const pkg = device.packages.get(packageId);
  if (!pkg) return '';
  const offer = offerOf(device, pkg);
  const there = lines.filter((line) => offer.carrying(`${instance}.${line}`).length > 0);
  const limit = lines
    .flatMap((line) => offer.carrying(`${instance}.${line}`))
    .flatMap((fn) => offer.limits(fn))
    .map((one) => one.highestHertz ?? 0)
    .sort((a, b) => a - b)[0];
  const rate = limit === undefined ? '' : `, ${hertzText(limit)} at most`;
  if (there.length === lines.length) return `all${rate}`;
  if (there.length === 0) return 'none';
  return `${there.length} of ${lines.length} lines${rate}`;
}

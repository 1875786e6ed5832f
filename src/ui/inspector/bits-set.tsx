'use client';

import { contributionsOf, type PlannedPad } from '@/core/device/planned-pad';
import { addressSentence } from '@/core/device/registers/register-text';
import { useDerived } from '../workspace/context';
import { Section } from './section';

/** The register bits that a pad's settings decide: address, reset and planned value, the bits themselves. */
export function BitsSet({ planned }: { planned: PlannedPad }) {
  const { derived } = useDerived();
  const { recipe } = derived.device.description;
  const contributions = contributionsOf(derived.device, planned);
  const proven = !derived.proof.failures.some((failure) => failure.pad === planned.pad.id);
  return (
    <Section title="Bits it sets" aside={proven ? 'proven' : 'not proven'}>
      <table className="m w-full">
        <thead className="sr-only">
          <tr>
            <th>register</th>
            <th>bits</th>
            <th>reset</th>
            <th>planned</th>
          </tr>
        </thead>
        <tbody>
          {contributions.map((one) => {
            const reset = ((one.register.reset & one.mask) >>> 0) / 2 ** one.low;
            const value = one.value / 2 ** one.low;
            const digits = (number: number) => number.toString(2).padStart(one.bits, '0');
            return (
              <tr
                key={`${one.field} ${one.low}`}
                title={`${one.register.title}; ${addressSentence(one.register, recipe)}`}
              >
                <td>{one.register.name}</td>
                <td className="text-soft">
                  {one.bits === 1 ? `bit ${one.low}` : `${one.low + one.bits - 1}…${one.low}`}
                </td>
                <td className="text-right text-soft">{digits(reset)}</td>
                <td className="px-1 text-soft">→</td>
                <td className={value === reset ? 'text-soft' : 'font-medium'}>{digits(value)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Section>
  );
}

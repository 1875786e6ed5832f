'use client';

import Link from 'next/link';
import type { Finding } from '@/core/derive/rules/types';
import { sourceText } from '@/core/description/source';
import type { Device } from '@/core/device/device';
import { addressSentence } from '@/core/device/registers/register-text';
import type { Register } from '@/core/device/registers/types';
import { useActions, useDerived } from '../workspace/context';

/** Where a finding of the proof is: the operation in the code, the register in the part. */
export function FindingPlace({ finding }: { finding: Finding }) {
  const { derived } = useDerived();
  const { showOperation } = useActions();
  const { operation, register: name } = finding.place ?? {};
  const register = name === undefined ? undefined : derived.device.registers.byName.get(name);
  if (operation === undefined && !register) return null;
  const { description } = derived.device;
  return (
    <span>
      {operation !== undefined && (
        <button
          type="button"
          className="link mr-2.5 inline text-left"
          onClick={() => showOperation(operation)}
        >
          operation {operation + 1} in the code
        </button>
      )}
      {register && (
        <Link
          prefetch={false}
          className="link mr-2.5"
          href={`/parts/${description.id}?tab=registers&find=${encodeURIComponent(register.name)}`}
          title={[addressSentence(register, description.recipe), whereFrom(derived.device, register)]
            .filter(Boolean)
            .join('; ')}
        >
          {register.name} in the part
        </Link>
      )}
    </span>
  );
}

/** The document and page that a register was read from, as far as the description says. */
function whereFrom(device: Device, register: Register): string {
  const block = device.description.recipe.registers.blocks.find((one) => one.id === register.block);
  const source = block?.registers.find((one) => one.id === register.id)?.source ?? block?.source;
  return source ? sourceText(source) : '';
}

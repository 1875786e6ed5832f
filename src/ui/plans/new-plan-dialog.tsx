'use client';

import { useRouter } from 'next/navigation';
import { Dialog } from 'radix-ui';
import { type FormEvent, useState } from 'react';
import type { Problem } from '@/core/result';
import { api } from '../client/api';
import type { DeviceLine } from './plan-list';

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  devices: DeviceLine[];
}

export function NewPlanDialog({ open, onOpenChange, devices }: Props) {
  const router = useRouter();
  const [name, setName] = useState('');
  const [deviceId, setDeviceId] = useState(devices[0]?.id ?? '');
  const device = devices.find((one) => one.id === deviceId);
  const [packageId, setPackageId] = useState(device?.packages[0]?.id ?? '');
  const [problems, setProblems] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);

  function chooseDevice(id: string) {
    setDeviceId(id);
    setPackageId(devices.find((one) => one.id === id)?.packages[0]?.id ?? '');
  }

  async function create(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    const answer = await api.createPlan(name.trim(), deviceId, packageId);
    if (answer.ok) router.push(`/plans/${answer.value.id}`);
    else {
      setProblems(answer.problems);
      setBusy(false);
    }
  }

  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="dialog-shade" />
        <Dialog.Content className="dialog" aria-describedby={undefined}>
          <Dialog.Title className="mb-3 text-lg font-semibold">New plan</Dialog.Title>
          <form onSubmit={create} className="grid grid-cols-[90px_1fr] items-baseline gap-x-3 gap-y-3">
            <label htmlFor="new-plan-name" className="text-soft">
              Name
            </label>
            <input
              id="new-plan-name"
              required
              maxLength={120}
              placeholder="board, revision"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <span className="text-soft" id="new-plan-part">
              Part
            </span>
            <div role="radiogroup" aria-labelledby="new-plan-part">
              {devices.map((one) => (
                <label key={one.id} className="flex gap-2 py-0.5">
                  <input
                    type="radio"
                    name="part"
                    checked={one.id === deviceId}
                    onChange={() => chooseDevice(one.id)}
                  />
                  <span>
                    <b className="font-semibold">{one.name}</b>
                    <br />
                    <span className="text-soft">{one.summary}</span>
                  </span>
                </label>
              ))}
            </div>
            <span className="text-soft" id="new-plan-package">
              Package
            </span>
            <div role="radiogroup" aria-labelledby="new-plan-package" className="flex flex-wrap gap-x-5">
              {device?.packages.map((one) => (
                <label key={one.id} className="flex gap-2">
                  <input
                    type="radio"
                    name="package"
                    checked={one.id === packageId}
                    onChange={() => setPackageId(one.id)}
                  />
                  {one.name}
                </label>
              ))}
            </div>
            {problems.length > 0 && (
              <div role="alert" className="col-span-2 text-err">
                {problems.map((problem) => (
                  <p key={problem.message}>{problem.message}</p>
                ))}
              </div>
            )}
            <div className="col-span-2 flex justify-end gap-2">
              <Dialog.Close className="button">Cancel</Dialog.Close>
              <button type="submit" className="button button-strong" disabled={busy || name.trim() === ''}>
                Create
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

'use client';

import { useRouter } from 'next/navigation';
import { Dialog } from 'radix-ui';
import { type FormEvent, useState } from 'react';
import type { Problem } from '@/core/base/problems';
import type { ProfileSummary } from '@/core/plan/profile-summary';
import { api } from '../client/api';
import type { DeviceLine } from './plan-list';

interface Props {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  devices: DeviceLine[];
  profiles: ProfileSummary[];
  /** Names that plans have. */
  taken: string[];
}

export function NewPlanDialog({ open, onOpenChange, devices, profiles, taken }: Props) {
  const router = useRouter();
  const [name, setName] = useState('');
  const twin = taken.some((one) => one.trim().toLowerCase() === name.trim().toLowerCase());
  const [deviceId, setDeviceId] = useState(devices[0]?.id ?? '');
  const device = devices.find((one) => one.id === deviceId);
  const [packageId, setPackageId] = useState(device?.packages[0]?.id ?? '');
  const [profileId, setProfileId] = useState('');
  const [gone, setGone] = useState<readonly string[]>([]);
  const boards = profiles.filter((one) => one.device === deviceId && !gone.includes(one.id));
  const [problems, setProblems] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);

  function chooseDevice(id: string) {
    setDeviceId(id);
    setProfileId('');
    setPackageId(devices.find((one) => one.id === id)?.packages[0]?.id ?? '');
  }

  async function create(event: FormEvent) {
    event.preventDefault();
    setBusy(true);
    const answer = await api.createPlan(name.trim(), deviceId, packageId, profileId);
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
              aria-describedby={twin ? 'new-plan-twin' : undefined}
              onChange={(event) => setName(event.target.value)}
            />
            {twin && (
              <p id="new-plan-twin" className="col-start-2 text-warn">
                There is a plan of this name already. Both can be: lists and files tell them apart by a few
                letters.
              </p>
            )}
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
                    {one.summary && <span className="block text-soft">{one.summary}</span>}
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
                    disabled={profileId !== ''}
                    onChange={() => setPackageId(one.id)}
                  />
                  {one.name}
                </label>
              ))}
            </div>
            {boards.length > 0 && (
              <>
                <span className="text-soft" id="new-plan-board">
                  Board
                </span>
                <div role="radiogroup" aria-labelledby="new-plan-board">
                  <label className="flex min-h-6 items-center gap-2">
                    <input
                      type="radio"
                      name="board"
                      checked={profileId === ''}
                      onChange={() => setProfileId('')}
                    />
                    none, start empty
                  </label>
                  {boards.map((one) => (
                    <div key={one.id} className="flex items-center gap-2">
                      <label className="flex min-h-6 items-center gap-2">
                        <input
                          type="radio"
                          name="board"
                          checked={profileId === one.id}
                          onChange={() => {
                            setProfileId(one.id);
                            setPackageId(one.package);
                          }}
                        />
                        <span>
                          {one.name}{' '}
                          <span className="text-soft">
                            {one.nets} nets locked,{' '}
                            {device?.packages.find((pkg) => pkg.id === one.package)?.name}
                          </span>
                        </span>
                      </label>
                      <button
                        type="button"
                        className="link ml-auto"
                        aria-label={`forget the board ${one.name}`}
                        onClick={async () => {
                          const answer = await api.removeProfile(one.id);
                          if (!answer.ok && answer.status !== 404) setProblems(answer.problems);
                          else {
                            setGone([...gone, one.id]);
                            if (profileId === one.id) setProfileId('');
                          }
                        }}
                      >
                        forget
                      </button>
                    </div>
                  ))}
                </div>
              </>
            )}
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

'use client';

import { useState } from 'react';
import { profileOf } from '@/core/plan/profile';
import { api } from '../client/api';
import { useLeaveGuard } from '../parts/use-leave-guard';
import { useDerived } from '../workspace/context';

/** The board's fixed wiring, kept so that other plans for the same board can start from it. */
export function SaveProfile() {
  const { derived } = useDerived();
  const { plan } = derived;
  const [name, setName] = useState(plan.name);
  const [said, setSaid] = useState<{ text: string; bad: boolean } | null>(null);
  const locked = plan.nets.filter((net) => net.placement?.locked);

  const [saving, setSaving] = useState(false);
  /** The name that was kept last, or the one that the field began with: another one in it is not kept yet. */
  const [keptName, setKeptName] = useState(plan.name);
  useLeaveGuard(saving || name !== keptName);

  async function save() {
    setSaving(true);
    const answer = await api.saveProfile(name.trim(), profileOf(plan));
    setSaving(false);
    if (answer.ok) setKeptName(name);
    setSaid(
      answer.ok
        ? {
            text: `Kept. New plans for ${derived.device.description.name} can start from “${name.trim()}”.`,
            bad: false,
          }
        : { text: answer.problems.map(({ place, message }) => `${place}: ${message}`).join('; '), bad: true },
    );
  }

  return (
    <section aria-label="Board profile">
      <div className="mb-1 mt-5 border-b border-ink pb-0.5">
        <h3 className="font-semibold">Board profile</h3>
      </div>
      <p className="max-w-prose text-soft">
        What is locked here is the board’s fixed wiring:{' '}
        {locked.length === 0 ? 'nothing yet' : locked.map((net) => net.name).join(', ')}. Kept as a profile,
        with labels and far ends, a new plan can start from it with everything in place.
      </p>
      <form
        className="mt-1 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <input
          aria-label="Name of the profile"
          maxLength={120}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <button
          type="submit"
          className="button"
          disabled={saving || locked.length === 0 || name.trim() === ''}
        >
          {saving ? 'Keeping …' : 'Keep as a board profile'}
        </button>
      </form>
      {said && (
        <p role="status" className={said.bad ? 'text-err' : ''}>
          {said.text}
        </p>
      )}
    </section>
  );
}

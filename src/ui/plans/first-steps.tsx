'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { freeName } from '@/core/base/text/free-name';
import { api } from '../client/api';
import { keyOf, type Starts } from '../commands/start-keys';
import { keepGuide } from '../guide/steps';

interface Props {
  /** The part of the demo, where it is installed. */
  demo: { device: string; pkg: string } | undefined;
  /** The demo's plan, where it is still there. */
  demoPlan: string | undefined;
  taken: readonly string[];
  onNew: () => void;
}

/** What to do first: each a click or a key away. */
export function FirstSteps({ demo, demoPlan, taken, onNew }: Props) {
  const router = useRouter();
  const [said, setSaid] = useState<string | null>(null);

  async function guided() {
    if (!demo) return;
    const name = freeName('First plan', (one) => taken.includes(one));
    const answer = await api.createPlan(name, demo.device, demo.pkg);
    if (!answer.ok) {
      setSaid(answer.problems[0]?.message ?? 'the plan could not be made');
      return;
    }
    keepGuide(answer.value.id, { on: true, step: 0, seen: [] }, localStorage);
    router.push(`/plans/${answer.value.id}`);
  }

  return (
    <section
      aria-label="What to do first"
      className="mb-5 grid gap-x-8 gap-y-2 border-y border-rule py-3 sm:grid-cols-3"
    >
      {demo && (
        <div>
          <button
            type="button"
            data-start="guided"
            className="link font-semibold leading-6"
            onClick={() => void guided()}
          >
            Guided first plan
          </button>
          <KeyHint starts="guided" />
          <p className="text-soft">
            Eight steps on a made-up part, from its pins to proven code. Ten minutes; leave it whenever you
            like.
          </p>
        </div>
      )}
      {demoPlan && (
        <div>
          <a className="link font-semibold leading-6" data-start="demo" href={`/plans/${demoPlan}`}>
            Look at the demo
          </a>
          <KeyHint starts="demo" />
          <p className="text-soft">
            An orchard frost guard, fully planned: 50 nets on 100 pins, with trials on its bench.
          </p>
        </div>
      )}
      <div>
        <button type="button" className="link font-semibold leading-6" onClick={onNew}>
          Plan your own board
        </button>
        <KeyHint starts="new" />
        <p className="text-soft">
          Choose a part and a package. If your part is not there yet,{' '}
          <a className="link" href="/parts/import">
            bring it in
          </a>{' '}
          out of its tables.
        </p>
      </div>
      {said && (
        <p role="alert" className="text-err">
          {said}
        </p>
      )}
    </section>
  );
}

/** The key that does the same. */
export function KeyHint({ starts }: { starts: Starts }) {
  return (
    <kbd aria-hidden className="kbd ml-1.5">
      {keyOf(starts)}
    </kbd>
  );
}

'use client';

import { useRouter } from 'next/navigation';
import { startTransition, useEffect } from 'react';
import { serverAnswers } from '@/ui/client/api';

const PAUSE_MS = 3000;

/** Shown when a page could not be made, for instance while the database is away. Comes back by itself when the server answers. */
export default function PageError({ reset }: { error: Error; reset: () => void }) {
  const router = useRouter();
  useEffect(() => {
    const again = (): void => {
      startTransition(() => {
        router.refresh();
        reset();
      });
    };
    const timer = setInterval(() => {
      void serverAnswers().then((answers) => {
        if (answers) again();
      });
    }, PAUSE_MS);
    return () => clearInterval(timer);
  }, [router, reset]);
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="text-2xl font-semibold">This page could not be shown</h1>
      <p className="mt-2 text-soft" role="status">
        The server or its database did not answer. Nothing you saved is lost. This page tries again every few
        seconds; the pin where Mavrek was started says more.
      </p>
      <button
        type="button"
        className="button button-strong mt-4"
        onClick={() =>
          startTransition(() => {
            router.refresh();
            reset();
          })
        }
      >
        Try again
      </button>
    </main>
  );
}

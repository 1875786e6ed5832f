'use client';

/** Shown when a page could not be made, for instance while the database is away. */
export default function PageError({ reset }: { error: Error; reset: () => void }) {
  return (
    <main className="mx-auto max-w-xl p-16">
      <h1 className="text-2xl font-semibold">This page could not be shown</h1>
      <p className="mt-2 text-soft">
        The server or its database did not answer. Nothing you saved is lost; the terminal where Mavrek was
        started says more.
      </p>
      <button type="button" className="button button-strong mt-4" onClick={reset}>
        Try again
      </button>
    </main>
  );
}

'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState, useTransition } from 'react';

const PAUSE_MS = 200;

/** Leaves only plans whose name, revision or part holds some words. The address says which, so that it can be kept. */
export function FindPlans({ find }: { find: string }) {
  const router = useRouter();
  const [text, setText] = useState(find);
  const [waits, startTransition] = useTransition();
  const shown = useRef(find);
  useEffect(() => {
    if (text.trim() === shown.current.trim()) return;
    const timer = setTimeout(() => {
      shown.current = text;
      const wanted = text.trim();
      startTransition(() => router.replace(wanted === '' ? '/' : `/?find=${encodeURIComponent(wanted)}`));
    }, PAUSE_MS);
    return () => clearTimeout(timer);
  }, [text, router]);
  return (
    <input
      type="search"
      aria-label="Find plans"
      aria-busy={waits}
      placeholder="find by name, revision, part"
      maxLength={200}
      className="w-56"
      value={text}
      onChange={(event) => setText(event.target.value)}
    />
  );
}

import { useEffect, useState } from 'react';
import { formatProblems } from '@/core/base/result';
import { compileDevice } from '@/core/device/compile/compile';
import type { Device } from '@/core/device/device';
import { api } from './api';

/** Compiled descriptions of this tab, by part and fingerprint. What a fingerprint stands for never changes. */
const known = new Map<string, Device>();
const keyOf = (id: string, fingerprint: string): string => `${id} ${fingerprint}`;

export type PartAnswer = { ok: true; device: Device } | { ok: false; message: string };

export const knownPart = (id: string, fingerprint: string): Device | undefined =>
  known.get(keyOf(id, fingerprint));

/**
 * A part with the description of a fingerprint; today's where that one was never here, or for an empty fingerprint. It can be
 * asked for as often as one likes.
 */
export async function openPart(id: string, fingerprint = ''): Promise<PartAnswer> {
  const found = fingerprint === '' ? undefined : knownPart(id, fingerprint);
  if (found) return { ok: true, device: found };
  const answer = await api.device(id, fingerprint);
  if (!answer.ok) return { ok: false, message: formatProblems(answer.problems) };
  const compiled = compileDevice(answer.value);
  if (!compiled.ok) return { ok: false, message: formatProblems(compiled.problems) };
  const device = compiled.value;
  known.set(keyOf(id, device.fingerprint), device);
  if (fingerprint !== '') known.set(keyOf(id, fingerprint), device);
  return { ok: true, device };
}

/** The part of an open plan, which may change under way. Null while it is being fetched. */
export function usePart(id: string, fingerprint: string): PartAnswer | null {
  const [answers, setAnswers] = useState<Record<string, PartAnswer>>({});
  const key = keyOf(id, fingerprint);
  const found = knownPart(id, fingerprint);
  const answer = answers[key];
  const missing = !found && !answer;
  useEffect(() => {
    if (!missing) return;
    let current = true;
    void openPart(id, fingerprint).then((next) => {
      if (current) setAnswers((old) => ({ ...old, [keyOf(id, fingerprint)]: next }));
    });
    return () => {
      current = false;
    };
  }, [id, fingerprint, missing]);
  if (found) return { ok: true, device: found };
  return answer ?? null;
}

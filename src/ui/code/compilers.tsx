'use client';

import { Check } from 'lucide-react';
import { useState } from 'react';
import type { ToolResult } from '@/core/output/exports';
import { api } from '../client/api';
import { useActions } from '../workspace/context';

interface Props {
  target: string;
  /** The last change is stored: what is compiled is what is shown. */
  settled: boolean;
}

const STATES: Record<ToolResult['state'], string> = {
  passed: 'takes it without a warning',
  failed: 'does not take it',
  absent: 'is not on the server',
  stopped: 'took too long and was stopped',
};

/** The code through the compilers that the server has: what they say, and how large it becomes. */
export function Compilers({ target, settled }: Props) {
  const { planId, at } = useActions();
  const [busy, setBusy] = useState(false);
  const [results, setResults] = useState<readonly ToolResult[] | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  async function check() {
    setBusy(true);
    setProblem(null);
    const answer = await api.checkCode(planId, target, at);
    setBusy(false);
    if (answer.ok) setResults(answer.value.tools);
    else setProblem(answer.problems[0]?.message ?? 'the code could not be compiled');
  }

  return (
    <section
      aria-label="Compilers"
      className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-rule px-3.5 py-1"
    >
      <button
        type="button"
        className="button"
        disabled={busy || !settled}
        title="With the compilers that the server has, all warnings as errors"
        onClick={() => void check()}
      >
        {busy ? 'Compiling …' : 'Compile'}
      </button>
      <div aria-live="polite" className="flex min-w-0 flex-1 flex-wrap items-baseline gap-x-5">
        {problem && <span className="text-err">{problem}</span>}
        {results?.map((one) => (
          <span key={one.id} className="min-w-0">
            <b className="font-medium">{one.title}</b>{' '}
            <span className={one.state === 'failed' || one.state === 'stopped' ? 'text-err' : 'text-soft'}>
              {one.state === 'passed' && <Check size={12} className="mr-0.5 inline text-ink" aria-hidden />}
              {STATES[one.state]}
            </span>
            {one.size && (
              <span className="m">
                {' '}
                {one.size.code} bytes{one.size.memory > 0 && `, ${one.size.memory} of memory`}
              </span>
            )}
            {one.install && <span className="m text-soft"> {one.install}</span>}
            {one.said !== '' && one.state !== 'absent' && (
              <pre className="m max-h-40 overflow-auto whitespace-pre-wrap text-[12px]">{one.said}</pre>
            )}
          </span>
        ))}
      </div>
    </section>
  );
}

'use client';

import { useMemo } from 'react';
import type { TableProblem } from '@/core/import/tables/records';

export interface ProblemGroup {
  key: string;
  severity: TableProblem['severity'];
  message: string;
  suggestions: string[];
  all: TableProblem[];
}

interface Props {
  problems: readonly TableProblem[];
  columnTitle: (column: number) => string;
  onShow: (problem: TableProblem) => void;
  onFix: (problems: readonly TableProblem[], suggestion: string) => void;
}

const MOST_SHOWN = 200;

/** Problems by row and cell, alike ones together; a suggestion mends all of a kind at once. */
export function ProblemList({ problems, columnTitle, onShow, onFix }: Props) {
  const groups = useMemo(() => groupProblems(problems), [problems]);
  if (groups.length === 0) return <p className="px-3 py-2 text-soft">Nothing is wrong with this table.</p>;
  return (
    <ul>
      {groups.slice(0, MOST_SHOWN).map(({ key, severity, message, suggestions, all }) => {
        const first = all[0] as TableProblem;
        return (
          <li key={key} className="border-b border-rule px-3 py-1.5">
            <button
              type="button"
              className="block min-h-6 text-left hover:underline"
              onClick={() => onShow(first)}
            >
              <span className={severity === 'error' ? 'text-err' : 'text-warn'}>
                {severity === 'error' ? '▲' : '△'}
              </span>{' '}
              <span className="m text-soft">
                {first.line === undefined ? 'table' : `row ${first.line}`}
                {first.column === undefined ? '' : `, ${columnTitle(first.column)}`}
                {all.length > 1 && ` and ${all.length - 1} more`}
              </span>{' '}
              {message}
            </button>
            {suggestions.length > 0 && (
              <span className="mt-0.5 flex flex-wrap gap-x-3">
                {suggestions.map((suggestion) => (
                  <button
                    key={suggestion}
                    type="button"
                    className="link min-h-6"
                    onClick={() => onFix(all, suggestion)}
                  >
                    make it {suggestion}
                    {all.length > 1 && ` in all ${all.length}`}
                  </button>
                ))}
              </span>
            )}
          </li>
        );
      })}
      {groups.length > MOST_SHOWN && (
        <li className="px-3 py-1.5 text-soft">and {groups.length - MOST_SHOWN} more kinds</li>
      )}
    </ul>
  );
}

export function groupProblems(problems: readonly TableProblem[]): ProblemGroup[] {
  const groups = new Map<string, ProblemGroup>();
  for (const one of problems) {
    const key = `${one.severity} ${one.message} ${one.word ?? ''}`;
    const known = groups.get(key);
    if (known) known.all.push(one);
    else
      groups.set(key, {
        key,
        severity: one.severity,
        message: one.message,
        suggestions: one.suggestions ?? [],
        all: [one],
      });
  }
  return [...groups.values()].sort(
    (a, b) => Number(a.severity === 'warning') - Number(b.severity === 'warning'),
  );
}

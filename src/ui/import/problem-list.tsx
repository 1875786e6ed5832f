'use client';

import { useMemo } from 'react';
import type { Answer, Severity, TableProblem } from '@/core/import/tables/records';

export interface ProblemGroup {
  key: string;
  severity: Severity;
  message: string;
  suggestions: string[];
  /** Of a question: what can be answered. */
  answers: readonly Answer[];
  all: TableProblem[];
}

interface Props {
  problems: readonly TableProblem[];
  columnTitle: (column: number) => string;
  onShow: (problem: TableProblem) => void;
  onFix: (problems: readonly TableProblem[], suggestion: string) => void;
  /** One answer to all questions of a kind. */
  onAnswer: (keys: string[], answer: string) => void;
  /** How many questions have been answered, and a way to take the answers back. */
  answered: number;
  onForget: () => void;
}

const MOST_SHOWN = 200;
const SIGNS: Record<Severity, [sign: string, colour: string, word: string]> = {
  error: ['▲', 'text-err', 'error'],
  question: ['?', 'text-pick', 'question'],
  warning: ['△', 'text-warn', 'warning'],
};
const ORDER: Severity[] = ['question', 'error', 'warning'];

/** Questions and problems by row and cell, alike ones together; a suggestion mends all of a kind at once. */
export function ProblemList(props: Props) {
  const { problems, columnTitle, onShow, onFix, onAnswer, answered, onForget } = props;
  const groups = useMemo(() => groupProblems(problems), [problems]);
  const taken = answered > 0 && (
    <p className="px-3 py-2 text-soft">
      {answered} {answered === 1 ? 'question' : 'questions'} answered.{' '}
      <button type="button" className="link min-h-6" onClick={onForget}>
        Ask again
      </button>
    </p>
  );
  if (groups.length === 0)
    return (
      <>
        <p className="px-3 py-2 text-soft">Nothing is wrong with this table.</p>
        {taken}
      </>
    );
  return (
    <>
      <ul>
        {groups.slice(0, MOST_SHOWN).map(({ key, severity, message, suggestions, answers, all }) => {
          const first = all[0] as TableProblem;
          const [sign, colour, word] = SIGNS[severity];
          return (
            <li key={key} className="border-b border-rule px-3 py-1.5">
              <button
                type="button"
                className="block min-h-6 text-left hover:underline"
                onClick={() => onShow(first)}
              >
                <span role="img" aria-label={word} className={`font-semibold ${colour}`}>
                  {sign}
                </span>{' '}
                <span className="m text-soft">
                  {first.line === undefined ? 'table' : `row ${first.line}`}
                  {first.column === undefined ? '' : `, ${columnTitle(first.column)}`}
                  {all.length > 1 && ` and ${all.length - 1} more`}
                </span>{' '}
                {message}
              </button>
              {severity === 'question' && (
                <span className="mt-1 flex flex-col items-start gap-1">
                  {answers.map(({ id, title }) => (
                    <button
                      key={id}
                      type="button"
                      className="button !h-auto min-h-6 !py-0.5 text-left"
                      onClick={() =>
                        onAnswer(
                          all.flatMap((one) => one.key ?? []),
                          id,
                        )
                      }
                    >
                      {title}
                    </button>
                  ))}
                </span>
              )}
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
      {taken}
    </>
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
        answers: one.answers ?? [],
        all: [one],
      });
  }
  return [...groups.values()].sort((a, b) => ORDER.indexOf(a.severity) - ORDER.indexOf(b.severity));
}

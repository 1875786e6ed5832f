'use client';

import { Fragment, useDeferredValue } from 'react';
import type { Finding } from '@/core/derive/rules/types';
import { Message } from '../parts/message';
import { useActions } from '../workspace/context';
import { FindingPlace } from './finding-place';

/** Findings about what is selected, each with its remedies. */
export function FindingLines({ findings }: { findings: readonly Finding[] }) {
  if (findings.length === 0) return null;
  return (
    <div className="mt-2 border-t border-rule pt-2">
      {findings.map((finding) => (
        <div key={finding.id} className="mb-1.5">
          <SeverityMark finding={finding} /> <Message text={finding.message} />{' '}
          <FindingPlace finding={finding} /> <Remedies finding={finding} />
        </div>
      ))}
    </div>
  );
}

export function SeverityMark({ finding }: { finding: Finding }) {
  const error = finding.severity === 'error';
  return (
    <span className={error ? 'text-err' : finding.severity === 'warning' ? 'text-warn' : 'text-soft'}>
      <span aria-hidden>{error ? '▲' : finding.severity === 'warning' ? '△' : '·'}</span>
      <span className="sr-only">{finding.severity}</span>
    </span>
  );
}

/** Each remedy has been tried before it is offered, which takes a derivation: they follow when the page has been painted. */
export function Remedies({ finding }: { finding: Finding }) {
  const { dispatch } = useActions();
  const tried = useDeferredValue<Finding | undefined>(finding, undefined);
  return (
    <span data-remedies="">
      {tried?.remedies.map((remedy) => (
        <Fragment key={remedy.label}>
          {' '}
          <button
            type="button"
            className="link mr-1.5 inline text-left"
            onClick={() => dispatch(remedy.edit)}
          >
            {remedy.label}
          </button>
        </Fragment>
      ))}
    </span>
  );
}

'use client';

import { Remedies, SeverityMark } from '../inspector/finding-lines';
import { FindingPlace } from '../inspector/finding-place';
import { Message } from '../parts/message';
import { provenWords } from '../parts/proven-words';
import { useActions, useDerived, useSelection } from '../workspace/context';

/** The findings in a line, where their pane is folded. */
export function FindingsLine({ onOpen }: { onOpen: () => void }) {
  const { derived } = useDerived();
  const { findings, plan } = derived;
  const open = findings.filter((one) => !one.waived);
  const [first] = open;
  return (
    <button
      type="button"
      className="flex h-7 w-full items-center gap-2 overflow-hidden whitespace-nowrap px-4 text-left text-soft"
      aria-expanded={false}
      data-unfold-findings=""
      onClick={onOpen}
    >
      <span aria-hidden>▸</span>
      {first ? (
        <span className="overflow-hidden text-ellipsis">
          {open.length} {open.length === 1 ? 'finding' : 'findings'}: {first.message.replaceAll('`', '')}
        </span>
      ) : plan.nets.length === 0 ? (
        'Nothing to check yet: the plan has no nets.'
      ) : (
        `Nothing found. ${provenWords(derived)}.`
      )}
    </button>
  );
}

/** All findings, worst first, each with its remedies. */
export function Findings() {
  const { derived } = useDerived();
  const { selection } = useSelection();
  const { select } = useActions();
  const { findings, plan } = derived;
  if (findings.length === 0) {
    return (
      <p className="px-4 py-2.5 text-soft">
        {plan.nets.length === 0
          ? 'Nothing to check yet: the plan has no nets.'
          : `Nothing found. ${provenWords(derived)}.`}
      </p>
    );
  }
  return (
    <ul aria-label="Findings" className="pane-area h-full py-1.5">
      {findings.map((finding) => (
        <li
          key={finding.id}
          className={`grid grid-cols-[14px_124px_minmax(0,1fr)] items-baseline gap-1.5 px-4 ${
            selection?.kind === 'finding' && selection.id === finding.id ? 'bg-pickbg' : ''
          }`}
        >
          {finding.waived ? (
            <span aria-hidden className="text-soft">
              ○
            </span>
          ) : (
            <SeverityMark finding={finding} />
          )}
          <button
            type="button"
            className="m min-h-6 text-left hover:underline"
            title="What it means"
            onClick={() => select({ kind: 'finding', id: finding.id })}
          >
            {finding.rule}
          </button>
          <span>
            {finding.waived && (
              <span className="mr-1 border border-rule px-1 text-[11.5px] text-soft">
                waived: {finding.waived.reason} ({finding.waived.author}, {finding.waived.date})
              </span>
            )}
            <span className={finding.waived ? 'text-soft' : ''}>
              <Message text={finding.message} />
            </span>{' '}
            <FindingPlace finding={finding} />
            {!finding.waived && <Remedies finding={finding} />}
          </span>
        </li>
      ))}
    </ul>
  );
}

'use client';

import { RULES } from '@/core/derive/check/catalogue';
import type { Finding } from '@/core/derive/rules/types';
import { Message } from '../parts/message';
import { Remedies, SeverityMark } from './finding-lines';
import { FindingPlace } from './finding-place';
import { Section } from './section';
import { RuleSeverity, Waive } from './waive';

/** One finding: what is wrong, what it means for the board, what can be done. */
export function FindingInspector({ finding }: { finding: Finding }) {
  const meta = RULES.find((rule) => rule.meta.id === finding.rule)?.meta;
  return (
    <>
      <h2 className="text-[17px] font-semibold">{meta?.title}</h2>
      <p className="m text-soft">
        <SeverityMark finding={finding} /> {finding.waived ? 'waived' : finding.severity} · {finding.rule}
      </p>
      <p className="mt-2">
        <Message text={finding.message} />
      </p>
      <p className="mt-1">
        <FindingPlace finding={finding} />
      </p>
      {finding.remedies.length > 0 && (
        <Section title="Could be">
          <Remedies finding={finding} />
        </Section>
      )}
      <Section title="What it means">
        <p>{meta?.means}</p>
      </Section>
      <Section title="How to get rid of it">
        <p>{meta?.fix}</p>
      </Section>
      <Waive key={finding.id} finding={finding} />
      {meta && <RuleSeverity meta={meta} />}
    </>
  );
}

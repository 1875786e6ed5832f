'use client';

import { useState } from 'react';
import { newId } from '@/core/base/text/new-id';
import type { Finding, RuleMeta } from '@/core/derive/rules/types';
import { addWaiver, removeWaiver, setEntry } from '@/core/plan/edits/make-edits';
import { RULE_LEVELS, tableOf } from '@/core/plan/model/types';
import { keepAuthorName } from '../client/author';
import { AuthorField } from '../people/author-field';
import { useAuthor } from '../people/use-author';
import { useActions, useDerived } from '../workspace/context';
import { Row, Section } from './section';

/** Lets a finding stand, with a reason and a name; or takes that back. */
export function Waive({ finding }: { finding: Finding }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan } = derived;
  const [reason, setReason] = useState('');
  const [author, setAuthor] = useAuthor();
  const { waived } = finding;
  if (waived) {
    const waiver = plan.waivers?.find((one) => one.id === waived.id);
    return (
      <Section title="Waived">
        <p>{waived.reason}</p>
        <p className="text-soft">
          {waived.author}, {waived.date}
        </p>
        {waiver && (
          <button type="button" className="link mt-1" onClick={() => dispatch(removeWaiver(plan, waiver))}>
            take the waiver back
          </button>
        )}
      </Section>
    );
  }
  if (finding.rule === 'stale-waiver' || finding.nets.length + finding.pads.length === 0) return null;
  return (
    <Section title="Let it stand">
      <form
        className="flex flex-col gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          if (reason.trim() === '' || author.trim() === '') return;
          keepAuthorName(author);
          dispatch(
            addWaiver(plan, {
              id: newId(),
              rule: finding.rule,
              nets: [...new Set(finding.nets)],
              pads: [...new Set(finding.pads)],
              ...(finding.about === undefined ? {} : { about: finding.about }),
              reason: reason.trim(),
              author: author.trim(),
              date: new Date().toISOString().slice(0, 10),
            }),
          );
        }}
      >
        <input
          aria-label="Reason"
          placeholder="why it may stay as it is"
          maxLength={500}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <span className="flex gap-1">
          <AuthorField
            label="Your name"
            placeholder="your name"
            maxLength={80}
            className="min-w-0 flex-1"
            value={author}
            onChange={setAuthor}
          />
          <button type="submit" className="button" disabled={reason.trim() === '' || author.trim() === ''}>
            Waive
          </button>
        </span>
      </form>
    </Section>
  );
}

/** How serious a rule is in this plan. */
export function RuleSeverity({ meta }: { meta: RuleMeta }) {
  const { derived } = useDerived();
  const { dispatch } = useActions();
  const { plan } = derived;
  const own = tableOf(plan, 'severity')[meta.id];
  return (
    <Section title="In this plan the rule is">
      <Row label="severity">
        <select
          aria-label={`Severity of ${meta.id}`}
          className="py-0"
          value={own ?? ''}
          onChange={(event) =>
            dispatch(
              setEntry(plan, 'severity', meta.id, event.target.value === '' ? null : event.target.value),
            )
          }
        >
          <option value="">{meta.severity}, as usual</option>
          {RULE_LEVELS.filter((level) => level !== meta.severity).map((level) => (
            <option key={level} value={level}>
              {level}
            </option>
          ))}
        </select>
      </Row>
    </Section>
  );
}

/** Waivers and changed severities of the plan, where there are any. */
export function WaiverList() {
  const { derived } = useDerived();
  const { dispatch, select } = useActions();
  const { plan, findings } = derived;
  const waivers = plan.waivers ?? [];
  const severities = Object.entries(tableOf(plan, 'severity'));
  if (waivers.length + severities.length === 0) return null;
  return (
    <Section title="Waived and weighed otherwise">
      <ul>
        {waivers.map((waiver) => {
          const finding = findings.find((one) => one.waived?.id === waiver.id);
          return (
            <li key={waiver.id} className="border-b border-rule py-0.5">
              <button
                type="button"
                className="m hover:underline"
                disabled={!finding}
                onClick={() => finding && select({ kind: 'finding', id: finding.id })}
              >
                {waiver.rule}
              </button>{' '}
              {waiver.reason}{' '}
              <span className="text-soft">
                ({waiver.author}, {waiver.date}){finding ? '' : ', covers nothing'}
              </span>{' '}
              <button type="button" className="link" onClick={() => dispatch(removeWaiver(plan, waiver))}>
                take back
              </button>
            </li>
          );
        })}
        {severities.map(([rule, level]) => (
          <li key={rule} className="border-b border-rule py-0.5">
            <span className="m">{rule}</span> is {level === 'off' ? 'turned off' : `a ${level}`}{' '}
            <button
              type="button"
              className="link"
              onClick={() => dispatch(setEntry(plan, 'severity', rule, null))}
            >
              as usual
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

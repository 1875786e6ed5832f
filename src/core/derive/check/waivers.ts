import { removeWaiver } from '../../plan/edits/make-edits';
import { type Plan, RULE_LEVELS, type RuleSeverity, tableOf, type Waiver } from '../../plan/model/types';
import type { Finding, Report, Severity } from '../rules/types';

/** A waiver covers a finding of its rule that is about all the nets and pads it names, and about the same of them. */
/** What of a finding tells whether a waiver covers it. */
type Coverable = Pick<Finding, 'rule' | 'nets' | 'pads' | 'about'>;

export const covers = (waiver: Waiver, finding: Coverable): boolean =>
  waiver.rule === finding.rule &&
  waiver.about === finding.about &&
  waiver.nets.every((net) => finding.nets.includes(net)) &&
  waiver.pads.every((pad) => finding.pads.includes(pad)) &&
  waiver.nets.length + waiver.pads.length > 0;

/** The severity of a rule in a plan: its own, or what the plan says; undefined when the plan turns it off. */
export function severityIn(plan: Plan, rule: string, own: Severity): Severity | undefined {
  const table = tableOf(plan, 'severity');
  const level: RuleSeverity | undefined = Object.hasOwn(table, rule)
    ? RULE_LEVELS.find((one) => one === table[rule])
    : undefined;
  if (level === 'off') return undefined;
  return level ?? own;
}

/** Waivers that cover nothing, as findings. */
export function staleWaivers(plan: Plan, findings: readonly Coverable[]): Report[] {
  return (plan.waivers ?? []).flatMap((waiver): Report[] => {
    if (findings.some((finding) => covers(waiver, finding))) return [];
    const nets = waiver.nets.filter((id) => plan.nets.some((net) => net.id === id));
    const about = [...nets.map((id) => plan.nets.find((net) => net.id === id)?.name ?? id), ...waiver.pads];
    return [
      {
        message: `The waiver of ${waiver.rule} for ${about.map((name) => `\`${name}\``).join(', ') || 'nets that are gone'}, from ${waiver.date}, covers nothing any more.`,
        pads: waiver.pads,
        nets,
        remedies: () => [{ label: 'take the waiver back', edit: removeWaiver(plan, waiver) }],
      },
    ];
  });
}

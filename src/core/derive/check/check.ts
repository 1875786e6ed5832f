import { LIMITS } from '../../base/limits';
import { append } from '../../base/lists';
import type { Edit } from '../../plan/edits/edits';
import type { Waiver } from '../../plan/model/types';
import type { ResolvedNet } from '../resolve/resolve';
import type { Finding, Found, PlacedNet, Remedy, Report, Rule, RuleContext, Severity } from '../rules/types';
import { staleWaiver } from '../rules/waiver/stale-waiver';
import { RULES } from './catalogue';
import { covers, severityIn, staleWaivers } from './waivers';

const SEVERITY_ORDER: Record<Severity, number> = { error: 0, warning: 1, note: 2 };

/** Rules about a net by itself. What they found is remembered: a net that has not changed is not looked at again. */
const NET_RULES = RULES.filter((rule) => rule.per === 'net' || rule.per === 'placed net');
const foundInNets = new WeakMap<ResolvedNet, readonly (readonly Report[])[]>();

const NOTHING: readonly Report[] = [];
const listOf = (found: Found): readonly Report[] =>
  found === undefined ? NOTHING : Array.isArray(found) ? (found as readonly Report[]) : [found as Report];

const isPlaced = (one: ResolvedNet): one is PlacedNet => one.pad !== undefined && one.pins.length > 0;

/** What each of {@link NET_RULES} finds about a net. */
function lookAtNet(one: ResolvedNet, context: RuleContext): readonly (readonly Report[])[] {
  let known = foundInNets.get(one);
  if (!known) {
    known = NET_RULES.map((rule) => {
      if (rule.per === 'net') return listOf(rule.check(one, context));
      return rule.per === 'placed net' && isPlaced(one) ? listOf(rule.check(one, context)) : NOTHING;
    });
    foundInNets.set(one, known);
  }
  return known;
}

/** What every rule reports, in the order of the rules. */
function reportsOf(context: RuleContext): { rule: Rule; reports: readonly Report[] }[] {
  const own = new Map<Rule, Report[]>();
  const add = (rule: Rule, reports: readonly Report[]): void => {
    if (reports.length === 0) return;
    const list = own.get(rule);
    if (list) append(list, reports);
    else own.set(rule, [...reports]);
  };
  for (const one of context.resolved)
    lookAtNet(one, context).forEach((reports, at) => {
      add(NET_RULES[at] as Rule, reports);
    });
  for (const rule of RULES) {
    if (rule.per === 'plan') add(rule, rule.check(context));
    else if (rule.per === 'pad')
      for (const [pad, nets] of context.byPad) add(rule, listOf(rule.check(pad, nets, context)));
  }
  return RULES.flatMap((rule) => {
    const reports = own.get(rule);
    return reports ? [{ rule, reports }] : [];
  });
}

/** A report with its name, before severities and waivers are looked at. */
interface Named {
  id: string;
  rule: string;
  severity: Severity;
  report: Report;
  nets: Report['nets'];
  pads: Report['pads'];
  about?: string | undefined;
}

/**
 * All findings of a plan: graver ones first, waived ones last; those of one severity in the order of the rules.
 * @param harmless whether an edit brings no new error; remedies that do are not offered
 */
export function check(context: RuleContext, harmless: (edit: Edit) => boolean = () => true): Finding[] {
  const { plan } = context;
  const used = new Map<string, number>();
  const named = reportsOf(context).flatMap(({ rule, reports }) => nameAll(rule, reports, used));
  append(named, nameAll(staleWaiver, staleWaivers(plan, named), used));
  return named
    .flatMap((one): Finding[] => {
      const severity = severityIn(plan, one.rule, one.severity);
      if (severity === undefined) return [];
      const waived = plan.waivers?.find((waiver) => covers(waiver, one));
      return [finish(one, severity, waived, context, harmless)];
    })
    .sort(
      (a, b) =>
        Number(a.waived !== undefined) - Number(b.waived !== undefined) ||
        SEVERITY_ORDER[a.severity] - SEVERITY_ORDER[b.severity],
    );
}

/** Names that stay the same between derivations as long as the same thing is wrong. */
function nameAll(rule: Rule, reports: readonly Report[], used: Map<string, number>): Named[] {
  const shown =
    reports.length <= LIMITS.findings ? reports : [...reports.slice(0, LIMITS.findings), andMore(reports)];
  return shown.map((report) => {
    const { nets, pads, about } = report;
    const what = about === undefined ? '' : `:${about}`;
    const stem = `${rule.meta.id}:${[...nets].sort().join('+')}:${[...pads].sort().join('+')}${what}`;
    const times = used.get(stem) ?? 0;
    used.set(stem, times + 1);
    return {
      id: times === 0 ? stem : `${stem}#${times + 1}`,
      rule: rule.meta.id,
      severity: report.severity ?? rule.meta.severity,
      report,
      nets,
      pads,
      about,
    };
  });
}

/** A finding; its remedies are worked out when they are first asked for, from the plan as it was when it was found. */
function finish(
  { id, rule, report }: Named,
  severity: Severity,
  waived: Waiver | undefined,
  context: RuleContext,
  harmless: (edit: Edit) => boolean,
): Finding {
  const { message, pads, nets, about, place } = report;
  let known: Remedy[] | undefined;
  return {
    id,
    rule,
    severity,
    message,
    pads,
    nets,
    pins: pads.flatMap((pad) => context.pinsOf(pad)),
    ...(about === undefined ? {} : { about }),
    ...(place === undefined ? {} : { place }),
    ...(waived === undefined ? {} : { waived }),
    get remedies() {
      known ??= (report.remedies?.(context) ?? []).filter(({ edit }) => harmless(edit));
      return known;
    },
  };
}

/** In place of what a rule found beyond what anybody reads. It is as grave as the gravest of them. */
const andMore = (reports: readonly Report[]): Report => ({
  message: `… and ${reports.length - LIMITS.findings} more of these.`,
  pads: [],
  nets: [],
  ...(reports.some((one) => one.severity === 'error') ? { severity: 'error' as const } : {}),
});

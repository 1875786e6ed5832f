import type { RuleMeta } from '../rules/types';
import { RULES } from './catalogue';

const SEVERITY_WORDS = {
  error:
    'The board or the code would not work, or could be damaged; code is not generated without being forced.',
  warning: 'Probably not what is wanted; deserves a look.',
  note: 'Good to know.',
} as const;

/** `docs/rules.md`, from what the rules say of themselves. */
export function rulesDocument(): string {
  const all: RuleMeta[] = RULES.map((rule) => rule.meta);
  const head = [
    '# Rules',
    '',
    `Mavrek checks every plan against ${all.length} rules, after every change. This page is printed from the rules themselves (\`npm run docs:rules\`).`,
    '',
    'A finding can be *waived* with a reason, an author and a date; it then no longer counts, but is still listed, and a waiver that covers nothing any more is reported itself. Each plan can give a rule another severity, or turn it off. Waivers and severities are part of the plan file, so that they are reviewed and merged with it.',
    '',
    ...Object.entries(SEVERITY_WORDS).map(([severity, words]) => `- **${severity}**: ${words}`),
    '',
    '| rule | severity | finds |',
    '|---|---|---|',
    ...all.map((meta) => `| [${meta.id}](#${meta.id}) | ${meta.severity} | ${meta.title} |`),
  ];
  const details = all.flatMap((meta) => [
    '',
    `## ${meta.id}`,
    '',
    `*${meta.severity}* · ${meta.title}.`,
    '',
    meta.means,
    '',
    `**What helps.** ${meta.fix}`,
  ]);
  return `${[...head, ...details].join('\n')}\n`;
}

import { filePlace, type Problem } from '../../base/problems';
import { RULES } from '../../derive/check/catalogue';
import { severityIn } from '../../derive/check/waivers';
import type { Derived } from '../../derive/derive';
import type { Finding, Severity } from '../../derive/rules/types';
import {
  type Finding as CodeFinding,
  levelOf as levelOfCode,
  REVIEW_RULES,
  type ReviewRule,
} from '../../existing-code/finding';
import { plainMessage } from './reports';

/** A SARIF 2.1.0 log (OASIS standard) of one run. */
const sarifLog = <Rule extends object, Found extends object>(
  rules: readonly Rule[],
  results: readonly Found[],
) => ({
  $schema: 'https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json',
  version: '2.1.0' as const,
  runs: [{ tool: { driver: { name: 'Mavrek', rules } }, results }],
});

/**
 * Findings as a SARIF 2.1.0 log (OASIS standard), for build servers and code review. `file` is the plan as the caller named
 * it, with `/` between folders; `text` its content, in which findings are given the line of their first net or pad.
 */
export function sarifReport(derived: Derived, file: string, text: string) {
  const { plan, findings } = derived;
  const lines = lineFinder(text);
  return sarifLog(
    RULES.map(({ meta }) => ({
      id: meta.id,
      shortDescription: { text: meta.title },
      fullDescription: { text: meta.means },
      help: { text: meta.fix },
      defaultConfiguration: levelOf(severityIn(plan, meta.id, meta.severity)),
    })),
    findings.map((finding) => ({
      ruleId: finding.rule,
      ruleIndex: RULES.findIndex((rule) => rule.meta.id === finding.rule),
      level: finding.severity,
      message: { text: messageOf(finding) },
      locations: [
        {
          physicalLocation: {
            artifactLocation: { uri: uriOf(file) },
            region: { startLine: lines(finding) },
          },
          logicalLocations: finding.nets.map((id) => ({
            name: derived.byNet.get(id)?.net.name ?? id,
            fullyQualifiedName: id,
            kind: 'net',
          })),
        },
      ],
      partialFingerprints: { 'mavrekFinding/v1': finding.id },
      ...(finding.waived
        ? {
            suppressions: [
              {
                kind: 'external' as const,
                status: 'accepted' as const,
                justification: `${finding.waived.reason} (${finding.waived.author}, ${finding.waived.date})`,
              },
            ],
          }
        : {}),
    })),
  );
}

/** What was found in code that sets registers, at its lines. Files are named as the caller named them. */
export function sarifOfReview(findings: readonly CodeFinding[]) {
  const ids = Object.keys(REVIEW_RULES) as ReviewRule[];
  return sarifLog(
    ids.map((id) => ({
      id,
      shortDescription: { text: REVIEW_RULES[id][1] },
      defaultConfiguration: { level: REVIEW_RULES[id][0] },
    })),
    findings.map((finding) => ({
      ruleId: finding.rule,
      ruleIndex: ids.indexOf(finding.rule),
      level: levelOfCode(finding),
      message: { text: finding.message },
      locations: [
        {
          physicalLocation: {
            artifactLocation: { uri: uriOf(finding.place.file) },
            region: { startLine: finding.place.line, startColumn: finding.place.column },
          },
          logicalLocations: finding.pads.map((pad) => ({ name: pad, kind: 'pad' })),
        },
      ],
    })),
  );
}

/** What is wrong with a file that could not be taken, at its places. */
export function sarifOfProblems(problems: readonly Problem[], file: string) {
  return sarifLog(
    [{ id: 'not-taken', shortDescription: { text: 'A file says something that cannot be taken' } }],
    problems.map(({ place, message }) => {
      const at = filePlace(place);
      return {
        ruleId: 'not-taken',
        ruleIndex: 0,
        level: 'error' as const,
        message: { text: message },
        locations: [
          {
            physicalLocation: {
              artifactLocation: { uri: uriOf(at?.file ?? file) },
              ...(at ? { region: { startLine: at.line, startColumn: at.column } } : {}),
            },
          },
        ],
      };
    }),
  );
}

const levelOf = (severity: Severity | undefined) =>
  severity === undefined ? { enabled: false } : { level: severity };

const messageOf = (finding: Finding): string => {
  const remedies = finding.remedies.map((one) => one.label);
  return remedies.length > 0
    ? `${plainMessage(finding.message)} Could: ${remedies.join('; ')}.`
    : plainMessage(finding.message);
};

/** A path as a URI reference: what a URI reserves is written in percent. */
const uriOf = (file: string): string =>
  file
    .replaceAll('\\', '/')
    .split('/')
    .map((part) => encodeURIComponent(part))
    .join('/');

/** Plans have one item a line, so a net's line is where its id stands. */
function lineFinder(text: string): (finding: Finding) => number {
  const lines = text.split('\n');
  const byId = new Map<string, number>();
  for (const [at, line] of lines.entries()) {
    const match = /^\s*\{"id":("(?:[^"\\]|\\.)*")/.exec(line);
    if (match?.[1]) {
      const id = JSON.parse(match[1]) as string;
      if (!byId.has(id)) byId.set(id, at + 1);
    }
  }
  return (finding) => finding.nets.flatMap((id) => byId.get(id) ?? [])[0] ?? 1;
}

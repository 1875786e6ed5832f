import { escapeXml } from '../../base/text/escape-xml';
import type { Derived } from '../../derive/derive';
import { timeText } from '../script/time-text';
import { type TrialResult, whyFailed } from './run-trial';

/** Results of trials as programs read them: what the command line prints with `--format json`. */
export function trialReport({ plan, device, fingerprint }: Derived, results: readonly TrialResult[]): object {
  const passed = results.filter((one) => one.passed).length;
  return {
    plan: { name: plan.name, device: device.description.id, package: plan.package, fingerprint },
    counts: { passed, failed: results.length - passed },
    trials: results.map((one) => ({
      id: one.trial.id,
      name: one.trial.name,
      passed: one.passed,
      nanoseconds: Math.round(one.nanoseconds),
      expectations: one.checks.map(({ line, text, passed: came, message, time }) => ({
        line: line + 1,
        text,
        passed: came,
        message,
        nanoseconds: Math.round(time),
      })),
      faults: one.faults.map(({ line, text, message }) => ({ line: line + 1, text, message })),
    })),
  };
}

/** For people. */
export function trialText(results: readonly TrialResult[]): string {
  if (results.length === 0) return 'the plan has no trials';
  const lines = results.flatMap((one) => [
    `${one.passed ? 'passed' : 'FAILED'}  ${one.trial.name}  (${one.checks.length} expectations, ${timeText(one.nanoseconds)})`,
    ...one.faults.map(({ line, text, message }) => `        line ${line + 1}: ${text}\n          ${message}`),
    ...one.checks
      .filter((check) => !check.passed)
      .map(
        ({ line, text, message, time }) =>
          `        line ${line + 1}: ${text}\n          ${message}, at ${timeText(time)}`,
      ),
    ...(one.checks.length === 0 ? ['        it expects nothing'] : []),
  ]);
  const passed = results.filter((one) => one.passed).length;
  return [...lines, `${passed} of ${results.length} trials passed`].join('\n');
}

/** JUnit XML, as build servers read it: a case for each trial. */
export function junitReport({ plan }: Derived, results: readonly TrialResult[]): string {
  const failed = results.filter((one) => !one.passed);
  const seconds = (nanoseconds: number): string => (nanoseconds / 1e9).toFixed(6);
  const total = results.reduce((sum, one) => sum + one.nanoseconds, 0);
  const cases = results.map((one) => {
    const name = escapeXml(one.trial.name);
    const head = `    <testcase name="${name}" classname="${escapeXml(plan.name)}" time="${seconds(one.nanoseconds)}"`;
    const why = whyFailed(one);
    if (one.passed || why === undefined) return `${head}/>`;
    const details = [
      ...one.faults.map(({ line, text, message }) => `line ${line + 1}: ${text}: ${message}`),
      ...one.checks
        .filter((check) => !check.passed)
        .map(
          ({ line, text, message, time }) => `line ${line + 1}: ${text}: ${message}, at ${timeText(time)}`,
        ),
    ];
    return `${head}>\n      <failure message="${escapeXml(why)}">${escapeXml(details.join('\n'))}</failure>\n    </testcase>`;
  });
  const counts = `tests="${results.length}" failures="${failed.length}" errors="0" skipped="0" time="${seconds(total)}"`;
  const suite = `  <testsuite name="${escapeXml(plan.name)}" ${counts}>`;
  return `<?xml version="1.0" encoding="UTF-8"?>\n<testsuites ${counts}>\n${suite}\n${cases.map((one) => `${one}\n`).join('')}  </testsuite>\n</testsuites>\n`;
}

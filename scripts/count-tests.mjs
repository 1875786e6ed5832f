// count-tests.mjs REPORT STATUS [FAILURES]: prints "PASSED FAILED" of a test runner's JSON report (Jest's or Playwright's), on standard
// error its slowest tests, and appends the names of those that failed to a file. Nothing passes by not running: a runner that wrote no
// report, or one that says that not everything ran and passed, counts as one failure where it names none. One whose process ended badly
// after a report that everything has run and passed is believed; what it ended with is said beside.
import { appendFileSync, readFileSync } from 'node:fs';

const SLOWEST = 20;

/** Playwright: tests within suites within suites. */
const timesOf = (suite, path = []) => [
  ...(suite.suites ?? []).flatMap((inner) => timesOf(inner, [...path, suite.title])),
  ...(suite.specs ?? []).map((spec) => ({
    name: [...path, suite.title, spec.title].join(' › '),
    seconds: spec.tests
      .flatMap(({ results }) => results)
      .reduce((sum, { duration }) => sum + duration / 1000, 0),
  })),
];
/** Jest: tests of a file. */
const fileTimes = ({ name, assertionResults }) =>
  assertionResults.map(({ fullName, duration }) => ({
    name: `${name.slice(name.lastIndexOf('/') + 1)} › ${fullName}`,
    seconds: (duration ?? 0) / 1000,
  }));

/** Names of what failed: Playwright. */
const failedIn = (suite, path = []) => [
  ...(suite.suites ?? []).flatMap((inner) => failedIn(inner, [...path, suite.title])),
  ...(suite.specs ?? [])
    .filter(({ ok }) => !ok)
    .map((spec) => [...path, suite.title, spec.title].join(' › ')),
];
/** Jest: failed tests of a file, or the file when it did not run. */
const failedOf = ({ name, status, assertionResults }) => {
  const file = name.slice(name.lastIndexOf('/') + 1);
  const tests = assertionResults.filter((test) => test.status === 'failed');
  if (tests.length === 0) return status === 'failed' ? [file] : [];
  return tests.map(({ fullName }) => `${file} › ${fullName}`);
};

const [file, status, failures] = process.argv.slice(2);
let passed = 0;
let failed = 0;
let complete = false;
try {
  const report = JSON.parse(readFileSync(file, 'utf8'));
  if (report.stats) {
    passed = report.stats.expected + report.stats.flaky;
    failed = report.stats.unexpected + report.errors.length;
    complete = failed === 0 && report.stats.skipped === 0;
  } else {
    passed = report.numPassedTests;
    failed = report.numFailedTests + report.numRuntimeErrorTestSuites;
    complete =
      report.success && !report.wasInterrupted && report.numPassedTestSuites === report.numTotalTestSuites;
  }
} catch {
  failed = 1;
}
try {
  const report = JSON.parse(readFileSync(file, 'utf8'));
  const times = report.stats
    ? report.suites.flatMap((suite) => timesOf(suite))
    : report.testResults.flatMap(fileTimes);
  const failed = report.stats
    ? report.suites.flatMap((suite) => failedIn(suite))
    : report.testResults.flatMap(failedOf);
  if (failures !== undefined) appendFileSync(failures, failed.map((name) => `${name}\n`).join(''));
  const slowest = times.sort((a, b) => b.seconds - a.seconds).slice(0, SLOWEST);
  const all = times.reduce((sum, { seconds }) => sum + seconds, 0);
  process.stderr.write(
    `the slowest ${slowest.length} of ${times.length} (${Math.round(all)} s of tests in all):\n`,
  );
  for (const { seconds, name } of slowest)
    process.stderr.write(`${seconds.toFixed(1).padStart(7)} s  ${name}\n`);
} catch {
  // Without a report there is nothing to tell; that it failed is counted below.
}
if (failed === 0 && (passed === 0 || (Number(status) !== 0 && !complete))) failed = 1;
console.log(`${passed} ${failed}`);

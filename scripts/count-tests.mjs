// Prints "PASSED FAILED" of a test runner's JSON report (Jest's or Playwright's). Nothing passes by not running: a runner that wrote
// no report, or one that says that not everything ran and passed, counts as one failure where it names none. One whose process ended
// badly after a report that everything has run and passed is believed; what it ended with is said beside.
import { readFileSync } from 'node:fs';

const [file, status] = process.argv.slice(2);
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
if (failed === 0 && (passed === 0 || (Number(status) !== 0 && !complete))) failed = 1;
console.log(`${passed} ${failed}`);

// Prints "PASSED FAILED" of a test runner's JSON report (Jest's or Playwright's). A runner that ended badly without
// reporting a failure, or wrote no report at all, counts as one failure: nothing passes by not running.
import { readFileSync } from 'node:fs';

const [file, status] = process.argv.slice(2);
let passed = 0;
let failed = 0;
try {
  const report = JSON.parse(readFileSync(file, 'utf8'));
  if (report.stats) {
    passed = report.stats.expected + report.stats.flaky;
    failed = report.stats.unexpected;
  } else {
    passed = report.numPassedTests;
    failed = report.numFailedTests + report.numRuntimeErrorTestSuites;
  }
} catch {
  failed = 1;
}
if (Number(status) !== 0 && failed === 0) failed = 1;
if (passed === 0 && failed === 0) failed = 1;
console.log(`${passed} ${failed}`);

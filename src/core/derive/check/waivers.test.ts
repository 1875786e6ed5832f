import { readFileSync } from 'node:fs';
import Ajv from 'ajv';
import { expectOk } from '@/testing/expect-ok';
import { family } from '@/testing/families';
import { deriveOn, frostGuard, on, planOf, withNets } from '@/testing/frost-guard';
import { sarifReport } from '../../output/reports/sarif';
import { applyEdit, invertEdit } from '../../plan/edits/edits';
import { addWaiver, setEntry } from '../../plan/edits/make-edits';
import { parsePlan } from '../../plan/file/plan-file';
import { printPlan } from '../../plan/file/print-plan';
import type { Plan, Waiver } from '../../plan/model/types';
import { rulesDocument } from './document';

const floating = planOf([{ name: 'DOOR', role: { kind: 'input' }, placement: on('B7') }]);
const waiver: Waiver = {
  id: 'w1',
  rule: 'floating-input',
  nets: ['n0'],
  pads: ['B7'],
  reason: 'the cable carries a 10 kΩ resistor',
  author: 'mk',
  date: '2026-11-20',
};
const waived = expectOk(applyEdit(floating, addWaiver(floating, waiver)));
const rulesOf = (plan: Plan): string[] => deriveOn(plan).findings.map((one) => one.rule);

describe('waivers', () => {
  test('a waived finding stays listed, with the reason, and does not count', () => {
    const { findings, counts } = deriveOn(waived);
    expect(findings.map((one) => [one.rule, one.waived?.reason])).toEqual([
      ['floating-input', waiver.reason],
    ]);
    expect(counts).toEqual({ error: 0, warning: 0, note: 0 });
  });
  test('it covers no other net, pad or rule', () => {
    const other = withNets(waived, { DOOR: { placement: on('B8') } });
    expect(deriveOn(other).findings.map((one) => [one.rule, one.waived !== undefined])).toEqual([
      ['floating-input', false],
      ['stale-waiver', false],
    ]);
  });
  test('of two settings that a pad does not have, it covers the one that was looked at', () => {
    const device = family('hadrik-h7');
    const fan = { name: 'FAN', role: { kind: 'output' }, placement: on('J20') } as const;
    const plan = planOf([{ ...fan, settings: { drive: '12mA', speed: 'fast' } }], {
      device: device.description.id,
      package: 'b361',
    });
    const findingsOf = (of: Plan) =>
      deriveOn(of, device).findings.filter((one) => one.rule === 'setting-not-here');
    const unmet = findingsOf(plan);
    expect(unmet.map((one) => one.about)).toEqual(['drive', 'speed']);
    expect(new Set(unmet.map((one) => one.id)).size).toBe(2);
    const one: Waiver = { ...waiver, rule: 'setting-not-here', pads: ['J20'], about: 'speed' };
    const looked = expectOk(applyEdit(plan, addWaiver(plan, one)));
    expect(findingsOf(looked).map(({ about, waived: by }) => [about, by?.id])).toEqual([
      ['drive', undefined],
      ['speed', 'w1'],
    ]);
    expect(expectOk(parsePlan('x', printPlan(looked)))).toEqual(looked);
    const vague = expectOk(applyEdit(plan, addWaiver(plan, { ...one, about: undefined as never })));
    expect(findingsOf(vague).filter((finding) => finding.waived)).toEqual([]);
  });
  test('when what it excused is gone, it is reported, and can be taken back', () => {
    const gone = withNets(waived, { DOOR: { settings: { pull: 'up' } } });
    const [finding] = deriveOn(gone).findings;
    expect(finding?.rule).toBe('stale-waiver');
    const after = expectOk(applyEdit(gone, finding?.remedies[0]?.edit as never));
    expect(after.waivers).toBeUndefined();
    expect(rulesOf(after)).toEqual([]);
  });
  test('it survives the file, undo and redo', () => {
    expect(expectOk(parsePlan('x', printPlan(waived)))).toEqual(waived);
    const edit = addWaiver(floating, waiver);
    expect(expectOk(applyEdit(waived, invertEdit(edit)))).toEqual(floating);
  });
});

describe('severity of a rule in a plan', () => {
  const as = (level: string): Plan =>
    expectOk(applyEdit(floating, setEntry(floating, 'severity', 'floating-input', level)));
  test('can be raised and lowered', () => {
    expect(deriveOn(as('error')).counts.error).toBe(1);
    expect(deriveOn(as('note')).counts).toEqual({ error: 0, warning: 0, note: 1 });
  });
  test('off is silent, and a waiver of it is not stale', () => {
    expect(rulesOf(as('off'))).toEqual([]);
    expect(
      rulesOf(expectOk(applyEdit(waived, setEntry(waived, 'severity', 'floating-input', 'off')))),
    ).toEqual([]);
  });
});

describe('SARIF 2.1.0', () => {
  // Draft 4 of JSON Schema says nothing here that later drafts read differently, but for where it is published.
  const {
    $schema: _draft,
    id: _where,
    ...schema
  } = JSON.parse(
    readFileSync('node_modules/@microsoft/jest-sarif/lib/schemas/sarif-2.1.0-rtm.5.json', 'utf8'),
  );
  const validate = new Ajv({
    strict: false,
    validateFormats: false,
    unicodeRegExp: false,
    allErrors: true,
  }).compile(schema);
  const faultyText = readFileSync('examples/frost-guard-faulty.plan.json', 'utf8');
  const faulty = deriveOn(expectOk(parsePlan('faulty', faultyText)));

  test.each([
    ['the faulty plan', () => sarifReport(faulty, 'examples/frost-guard-faulty.plan.json', faultyText)],
    ['a clean plan', () => sarifReport(deriveOn(frostGuard()), 'a b.plan.json', '')],
    ['a waiver', () => sarifReport(deriveOn(waived), 'x.plan.json', printPlan(waived))],
  ])('%s is valid', (_, report) => {
    const log = JSON.parse(JSON.stringify(report()));
    validate(log);
    expect(validate.errors).toBeNull();
  });
  test('findings carry rule, level and the line of their net', () => {
    const [run] = sarifReport(faulty, 'examples/frost-guard-faulty.plan.json', faultyText).runs;
    expect(run?.results).toHaveLength(faulty.findings.length);
    const twoNets = run?.results.find((one) => one.ruleId === 'two-nets');
    expect(run?.tool.driver.rules[twoNets?.ruleIndex ?? -1]?.id).toBe('two-nets');
    expect(twoNets?.level).toBe('error');
    const line = twoNets?.locations[0]?.physicalLocation.region.startLine ?? 0;
    expect(faultyText.split('\n')[line - 1]).toContain('"FAN_2"');
  });
  test('a waived finding is suppressed, with who and why', () => {
    const [run] = sarifReport(deriveOn(waived), 'x', printPlan(waived)).runs;
    expect(run?.results[0]).toMatchObject({
      suppressions: [
        { kind: 'external', status: 'accepted', justification: `${waiver.reason} (mk, 2026-11-20)` },
      ],
    });
  });
  test('a path is a URI reference', () => {
    const [run] = sarifReport(deriveOn(waived), 'my plans\\ä#1.json', '').runs;
    expect(run?.results[0]?.locations[0]?.physicalLocation.artifactLocation.uri).toBe(
      'my%20plans/%C3%A4%231.json',
    );
  });
});

test('docs/rules.md is what the rules say of themselves', () => {
  expect(readFileSync('docs/rules.md', 'utf8')).toBe(rulesDocument());
});

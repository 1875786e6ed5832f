import { type ReadJson, readJson } from '../../base/json/read-json';
import { collectProblems, type Problems } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import { attachmentFault } from '../edits/attachment';
import { constraintFault } from '../edits/constraint';
import { migratePlan } from '../migrations';
import { PLAN_FORMAT, type Plan } from '../model/types';
import { planProblems } from './plan-problems';

/** Text of a plan file, of any format that was ever written → plan. Problems carry `file:row:column`. */
export function parsePlan(name: string, text: string): Result<Plan> {
  const read = readJson(name, text);
  if (!read.ok) return read;
  const value = migratePlan(read.value.value);
  const json: ReadJson = { ...read.value, value };
  const format =
    typeof value === 'object' && value !== null ? (value as { format?: unknown }).format : undefined;
  if (format !== PLAN_FORMAT)
    return fail({ place: json.placeOf(['format']), message: formatMessage(format) });
  const wrong = planProblems()(json);
  if (wrong.length > 0) return failWith(wrong);
  const plan = value as Plan;
  const problems = referenceProblems(plan, json);
  return problems.length > 0 ? failWith(problems.list()) : ok(plan);
}

function formatMessage(format: unknown): string {
  if (format === undefined) return `this is no plan: it lacks "format": "${PLAN_FORMAT}"`;
  if (typeof format === 'string' && /^mavrek-plan\/\d+$/.test(format)) {
    return `the plan has format ${format}; this version of Mavrek reads ${PLAN_FORMAT}`;
  }
  return `this is no plan: its format is ${JSON.stringify(format)?.slice(0, 60)}`;
}

function referenceProblems(plan: Plan, json: ReadJson): Problems {
  const problems = collectProblems();
  const placeOf = (path: (string | number)[]): string => (problems.full ? '' : json.placeOf(path));
  const circuits = new Set<string>();
  plan.circuits.forEach((circuit, index) => {
    if (circuits.has(circuit.id)) {
      problems.push({
        place: placeOf(['circuits', index, 'id']),
        message: `two circuits have the id "${circuit.id}"`,
      });
    }
    circuits.add(circuit.id);
  });
  const nets = new Set<string>();
  plan.nets.forEach((net, index) => {
    if (nets.has(net.id)) {
      problems.push({
        place: placeOf(['nets', index, 'id']),
        message: `two nets have the id "${net.id}"`,
      });
    }
    nets.add(net.id);
    if (!circuits.has(net.circuit)) {
      const message = `net "${net.name}" belongs to a circuit "${net.circuit}" that is not there`;
      problems.push({ place: placeOf(['nets', index, 'circuit']), message });
    }
  });
  /** Ids are there once, and nets that something is about are there. */
  const list = (
    key: 'constraints' | 'waivers' | 'attachments' | 'trials',
    what: string,
    items: readonly { id: string }[] = [],
  ): void => {
    const ids = new Set<string>();
    items.forEach(({ id }, index) => {
      if (ids.has(id))
        problems.push({ place: placeOf([key, index, 'id']), message: `two ${what} have the id "${id}"` });
      ids.add(id);
    });
  };
  const ofNets = <T extends { nets: string[] }>(
    key: 'constraints' | 'attachments',
    items: readonly T[] = [],
    faultOf: (item: T) => string | undefined,
  ): void => {
    items.forEach((item, index) => {
      const fault = faultOf(item);
      if (fault) problems.push({ place: placeOf([key, index, 'nets']), message: fault });
      item.nets.forEach((id, at) => {
        if (!nets.has(id))
          problems.push({ place: placeOf([key, index, 'nets', at]), message: `there is no net "${id}"` });
      });
    });
  };
  list('constraints', 'constraints', plan.constraints);
  ofNets('constraints', plan.constraints, constraintFault);
  list('waivers', 'waivers', plan.waivers);
  list('attachments', 'attachments', plan.attachments);
  ofNets('attachments', plan.attachments, attachmentFault);
  list('trials', 'trials', plan.trials);
  const names = new Set<string>();
  plan.trials?.forEach(({ name }, index) => {
    if (names.has(name))
      problems.push({
        place: placeOf(['trials', index, 'name']),
        message: `two trials are called "${name}"`,
      });
    names.add(name);
  });
  return problems;
}

import { tieFault } from '../plan/edit';
import { PLAN_FORMAT, type Plan } from '../plan/types';
import { collectProblems, type Problems } from '../problems';
import { fail, failWith, ok, type Result } from '../result';
import { type ReadJson, readJson } from './read-json';
import { planProblems } from './schemas';

/** Text of a plan file → plan. Problems carry `file:row:column`. */
export function parsePlan(name: string, text: string): Result<Plan> {
  const json = readJson(name, text);
  if (!json.ok) return json;
  const { value } = json.value;
  const format =
    typeof value === 'object' && value !== null ? (value as { format?: unknown }).format : undefined;
  if (format !== PLAN_FORMAT)
    return fail({ place: json.value.placeOf(['format']), message: formatMessage(format) });
  const wrong = planProblems()(json.value);
  if (wrong.length > 0) return failWith(wrong);
  const plan = value as Plan;
  const problems = referenceProblems(plan, json.value);
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
  const ties = new Set<string>();
  plan.ties?.forEach((tie, index) => {
    if (ties.has(tie.id))
      problems.push({
        place: placeOf(['ties', index, 'id']),
        message: `two ties have the id "${tie.id}"`,
      });
    ties.add(tie.id);
    const fault = tieFault(tie);
    if (fault) problems.push({ place: placeOf(['ties', index, 'nets']), message: fault });
    tie.nets.forEach((id, at) => {
      if (!nets.has(id))
        problems.push({ place: placeOf(['ties', index, 'nets', at]), message: `there is no net "${id}"` });
    });
  });
  const waivers = new Set<string>();
  plan.waivers?.forEach((waiver, index) => {
    if (waivers.has(waiver.id))
      problems.push({
        place: placeOf(['waivers', index, 'id']),
        message: `two waivers have the id "${waiver.id}"`,
      });
    waivers.add(waiver.id);
  });
  return problems;
}

import { fail, type Result } from '@/core/base/result';
import type { Comparison } from '@/core/compare/compare';
import type { Plan } from '@/core/plan/model/types';
import { planAt, readRevision } from './history';
import { findPart, findPlanPart, type StoredDescription, wholePart } from './parts';
import { readPlan } from './plans';
import { work } from './work/pool';

/**
 * Which state of which plan is meant: `ID` as it is now, `ID@12` behind its edit 12, `ID~B` its revision B. A part and a package
 * make it the same plan on another one.
 */
export interface Side {
  ref: string;
  part?: string;
  package?: string;
}

const REF = /^([a-z0-9-]{1,80})(?:@(\d{1,15})|~(.{1,80}))?$/u;

interface Found {
  plan: Plan;
  part: StoredDescription;
}

async function planOf(ref: string): Promise<Plan | undefined> {
  const [, id, seq, revision] = REF.exec(ref) ?? [];
  if (id === undefined) return undefined;
  if (seq !== undefined) return (await planAt(id, Number(seq)))?.plan;
  // A revision of a plan that was deleted is not there, as the plan is not.
  const head = await readPlan(id);
  return revision === undefined ? head?.plan : head && (await readRevision(id, revision))?.plan;
}

async function find(side: Side, place: string): Promise<Result<Found>> {
  const plan = await planOf(side.ref);
  if (!plan) return fail({ place, message: `there is no plan "${side.ref}"` });
  const moved = side.part !== undefined && side.part !== plan.device;
  const part = moved ? await findPart(side.part as string) : await findPlanPart(plan);
  if (!part) return fail({ place, message: `there is no part "${side.part ?? plan.device}" here` });
  return {
    ok: true,
    value: {
      part,
      plan: {
        ...plan,
        device: part.id,
        package: side.package ?? plan.package,
        ...(moved ? { deviceFingerprint: part.fingerprint } : {}),
      },
    },
  };
}

/** What differs between two sides; a failure says which of them cannot be found or derived. */
export async function compareStored(from: Side, to: Side, target: string): Promise<Result<Comparison>> {
  const [was, is] = await Promise.all([find(from, 'from'), find(to, 'to')]);
  if (!was.ok) return was;
  if (!is.ok) return is;
  const input = async ({ plan, part }: Found) => ({ plan, part: await wholePart(part) });
  return work('compare', { from: await input(was.value), to: await input(is.value), target });
}

import { failWith, type Result } from '../../base/result';
import type { DeviceDescription } from '../../description/types';
import type { Device } from '../device';
import { compileDevice } from './compile';
import { checkRecipe } from './load-checks';
import { packageProblems } from './package-device';

/**
 * Compiles a description and checks all that can be wrong with its recipe, so that nothing is found out later. For
 * descriptions from outside; one that the server has loaded already is only compiled ({@link compileDevice}).
 */
export function loadDevice(description: DeviceDescription): Result<Device> {
  const compiled = compileDevice(description);
  if (!compiled.ok) return compiled;
  const problems = checkRecipe(compiled.value);
  if (problems.length === 0) problems.push(...packageProblems(compiled.value));
  return problems.length > 0 ? failWith(problems) : compiled;
}

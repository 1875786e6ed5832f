import { append } from '../../base/lists';
import { collectProblems, type Problem } from '../../base/problems';
import { failWith, type Result } from '../../base/result';
import type { DeviceDescription } from '../../description/types';
import type { Device } from '../device';
import { compileDevice } from './compile';
import { checkRecipe } from './load-checks';
import { dependsOnPackage, recipeIn } from './package-device';

/**
 * Compiles a description and checks all that can be wrong with its recipe, so that nothing is found out later. For
 * descriptions from outside; one that the server has loaded already is only compiled ({@link compileDevice}).
 */
export function loadDevice(description: DeviceDescription): Result<Device> {
  const compiled = compileDevice(description);
  if (!compiled.ok) return compiled;
  const problems = checkRecipe(compiled.value);
  if (problems.length === 0) append(problems, packageProblems(compiled.value));
  return problems.length > 0 ? failWith(problems) : compiled;
}

/** What is wrong with a part in single packages, with the package. */
function packageProblems(device: Device): Problem[] {
  if (!dependsOnPackage(device.description.recipe)) return [];
  const problems = collectProblems();
  for (const id of device.packages.keys()) {
    const compiled = compileDevice({
      ...device.original,
      recipe: recipeIn(device.original.recipe, id),
    });
    const found = compiled.ok ? checkRecipe(compiled.value) : compiled.problems;
    for (const { place, message } of found) problems.push({ place: `in package ${id}: ${place}`, message });
  }
  return problems.list();
}

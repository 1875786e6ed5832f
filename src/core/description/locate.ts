import type { Problem } from '../base/problems';
import type { DeviceDescription } from './types';

/**
 * Where in a description's file something is wrong that shows only when the whole is put together: what a problem's place names
 * ("recipe, block PORT, register OUT") as a path into the description, which a reader can find in its file.
 */
type Path = (string | number)[];
type Sources = Pick<DeviceDescription, 'recipe'>;

const indexOf = <T>(items: readonly T[] | undefined, is: (item: T) => boolean): Path => {
  const at = items?.findIndex(is) ?? -1;
  return at < 0 ? [] : [at];
};

/** Each with what it finds; what follows in the place is nearer than a path can say. */
const PLACES: readonly [RegExp, (words: string[], sources: Sources) => Path][] = [
  [
    /^recipe, block (\w+)(?:, register (\w+)(?:, (has|reset))?)?/,
    ([block, register, key], { recipe }) => {
      const { blocks } = recipe.registers;
      const at = indexOf(blocks, ({ id }) => id === block);
      const registers = blocks[at[0] as number]?.registers;
      const path: Path = ['recipe', 'registers', 'blocks', ...at];
      if (register === undefined) return path;
      const within = indexOf(registers, ({ id }) => id === register);
      return [...path, 'registers', ...within, ...(key ? [key] : [])];
    },
  ],
  [/^recipe, guard (\d+)/, ([number]) => ['recipe', 'registers', 'guards', Number(number) - 1]],
  [/^recipe, field ([^,]+)/, ([field]) => ['recipe', 'fields', field as string]],
  [
    /^recipe, stage ([^,]+)(?:, (?:(step|after|before each|after each) (\d+)|(where|for)))?/,
    ([stage, list, number, key], { recipe }) => [
      'recipe',
      'stages',
      ...indexOf(recipe.stages, ({ id }) => id === stage),
      ...(list ? [list === 'step' ? 'do' : list, Number(number) - 1] : []),
      ...(key ? [key] : []),
    ],
  ],
  [
    /^recipe, (encode|excludes|alike|between|invariant) (\d+)/,
    ([list, number]) => [
      'recipe',
      list === 'invariant' ? 'invariants' : (list as string),
      Number(number) - 1,
    ],
  ],
  [/^recipe, (settings|meanings|access|between), ([\w.]+)/, ([map, key]) => ['recipe', map ?? '', key ?? '']],
  [/^recipe, port (\S+)/, ([port]) => ['recipe', 'ports', (port ?? '').replace(/,$/, '')]],
  [/^recipe, (ports|fields|settings|excludes|encode|stages|access)/, ([key]) => ['recipe', key as string]],
  [/^interrupts/, () => ['interrupts']],
];

/** The path of what a place names; undefined where it names nothing of a description. */
export function pathOfPlace(place: string, sources: Sources): Path | undefined {
  const plain = place.replace(/^in package [^:]+: /, '');
  for (const [pattern, path] of PLACES) {
    const match = pattern.exec(plain);
    if (match) return path(match.slice(1), sources);
  }
  return undefined;
}

/** Problems of a whole description with the place in its file before what they name. */
export const located = (
  problems: readonly Problem[],
  sources: Sources,
  placeOf: (path: Path) => string,
): Problem[] =>
  problems.map((problem) => {
    const path = pathOfPlace(problem.place, sources);
    return path ? { ...problem, place: `${placeOf(path)}, ${problem.place}` } : problem;
  });

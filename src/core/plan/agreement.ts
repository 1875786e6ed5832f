/** What objects have in common, key by key, and where they do not agree. A key that only some have is one they differ in. */
export function agreement<T extends object>(all: readonly T[]): { agreed: T; differ: Set<keyof T> } {
  const agreed: Partial<T> = {};
  const differ = new Set<keyof T>();
  for (const key of new Set(all.flatMap((one) => Object.keys(one) as (keyof T)[]))) {
    const [first] = all;
    const text = JSON.stringify(first?.[key]);
    if (all.every((one) => JSON.stringify(one[key]) === text)) agreed[key] = first?.[key];
    else differ.add(key);
  }
  return { agreed: agreed as T, differ };
}

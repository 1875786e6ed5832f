/**
 * A record without a prototype: what users call their pads, notes or settings is looked up in it, and "constructor" or
 * "toString" must not be found where nobody put them.
 */
export const bare = <T>(record: Readonly<Record<string, T>> = {}): Record<string, T> =>
  Object.assign(Object.create(null) as Record<string, T>, record);

/** The same with each value changed. */
export const bareEach = <T, U>(
  record: Readonly<Record<string, T>>,
  change: (value: T) => U,
): Record<string, U> => {
  const made = bare<U>();
  for (const [key, value] of Object.entries(record)) made[key] = change(value);
  return made;
};

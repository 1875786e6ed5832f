import type { Derived } from '@/core/derive/derive';

/** Ids for nets and circuits that a command adds: the same with every call of the command, and none that the plan has. */
export function readIds({ byNet }: Derived): () => string {
  let count = 0;
  return () => {
    let id = '';
    do id = `read-${++count}`;
    while (byNet.has(id));
    return id;
  };
}

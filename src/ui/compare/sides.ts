/** What is compared, as an address says it: a plan as it is (`ID`), behind an edit (`ID@12`), or a revision (`ID~B`). */
export interface SideAddress {
  ref: string;
  part: string;
  package: string;
}

export interface CompareAddress {
  from: SideAddress;
  to: SideAddress;
  circuit: string;
}

export function readCompare(params: URLSearchParams, id: string): CompareAddress {
  const side = (name: 'from' | 'to'): SideAddress => ({
    ref: params.get(name) ?? (name === 'to' ? id : ''),
    part: params.get(`${name}Part`) ?? '',
    package: params.get(`${name}Package`) ?? '',
  });
  return { from: side('from'), to: side('to'), circuit: params.get('circuit') ?? '' };
}

export function compareQuery({ from, to, circuit }: CompareAddress): string {
  const params = new URLSearchParams({ from: from.ref, to: to.ref });
  for (const [name, side] of [
    ['from', from],
    ['to', to],
  ] as const) {
    if (side.part !== '') params.set(`${name}Part`, side.part);
    if (side.package !== '') params.set(`${name}Package`, side.package);
  }
  if (circuit !== '') params.set('circuit', circuit);
  return params.toString();
}

/** The plan that a side is of. */
export const planOfRef = (ref: string): string => /^[^@~]*/.exec(ref)?.[0] ?? '';

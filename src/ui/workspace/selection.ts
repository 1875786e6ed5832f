/** What is selected: live in every view, and part of the address, so that a link opens the same thing. */
export type Selection =
  | { kind: 'net'; id: string }
  | { kind: 'pad'; id: string }
  | { kind: 'finding'; id: string }
  /** Bits of a register: `PD.FN1:0`; or the whole of it: `PD.FN1`. */
  | { kind: 'bits'; id: string }
  | null;

export const VIEWS = [
  { id: 'package', title: 'Package' },
  { id: 'ports', title: 'Ports' },
  { id: 'functions', title: 'Functions' },
  { id: 'registers', title: 'Registers' },
  { id: 'power', title: 'Power' },
  { id: 'board', title: 'Board' },
  { id: 'bench', title: 'Bench' },
  { id: 'code', title: 'Code' },
] as const;
export type ViewId = (typeof VIEWS)[number]['id'];

const KINDS = ['net', 'pad', 'finding', 'bits'] as const;

export interface Address {
  view: ViewId;
  selection: Selection;
}

export function readAddress(search: string): Address {
  const params = new URLSearchParams(search);
  const view = VIEWS.find((one) => one.id === params.get('view'))?.id ?? 'package';
  const selected = params.get('select') ?? '';
  const colon = selected.indexOf(':');
  const kind = selected.slice(0, colon);
  const id = selected.slice(colon + 1);
  const known = KINDS.find((one) => one === kind);
  const selection: Selection = known && id !== '' ? { kind: known, id } : null;
  return { view, selection };
}

export function writeAddress({ view, selection }: Address): string {
  const params = new URLSearchParams({ view });
  if (selection) params.set('select', `${selection.kind}:${selection.id}`);
  return `?${params}`;
}

export const sameSelection = (a: Selection, b: Selection): boolean => a?.kind === b?.kind && a?.id === b?.id;

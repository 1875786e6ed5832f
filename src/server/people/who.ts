import { AsyncLocalStorage } from 'node:async_hooks';
import { type Right, type Role, roleMay, type Scope } from '@/core/people/rights';

/**
 * For whom the server does what it does. A request's is settled in one place, the guard, before anything else looks at it; the
 * database asks here whose rights its statements have.
 */
export interface Who {
  /** `local`: there are no accounts. `server`: for itself. `nobody`: not signed in. */
  kind: 'local' | 'server' | 'nobody' | 'person';
  /** The workspace in which it is done; empty for nobody. */
  workspace: string;
  /** What the database knows them by: `p:` a person, `t:` a token. Several when edits of several people are stored together. */
  principals: readonly string[];
  person?: { id: string; name: string };
  role?: Role;
  /** Set for a token. */
  scope?: Scope;
  /** Set for a session. */
  session?: string;
  /** How they are known, for the audit log. */
  via: string;
  /** From where they ask. */
  address?: string;
  /** What the audit log says it was about, where the address does not; filled in by whoever does it. */
  noted?: { target?: string; workspace?: string; person?: { id: string; name: string }; via?: string };
  /** Whether they still may what they came for: streams ask now and then. */
  stillHere?: () => Promise<boolean>;
}

/** The workspace of a server without accounts. */
export const MAIN = 'main';

const LOCAL: Who = { kind: 'local', workspace: MAIN, principals: [], via: 'local' };
export const NOBODY: Who = { kind: 'nobody', workspace: '', principals: [], via: 'nobody' };

// The application and the server around it are bundled apart; the process has one context.
const shared = globalThis as typeof globalThis & { mavrekWho?: AsyncLocalStorage<Who>; mavrekOutside?: Who };
shared.mavrekWho ??= new AsyncLocalStorage();
const store = shared.mavrekWho;

export const authOn = (): boolean => process.env.MAVREK_AUTH === 'on';

/** Where nobody has settled who asks, it is a stranger: what forgets to ask gets nothing. */
export const whoNow = (): Who => store.getStore() ?? shared.mavrekOutside ?? NOBODY;
export const workspaceNow = (): string => whoNow().workspace;
export const runAs = <T>(who: Who, work: () => T): T => store.run(who, work);

/** Does something as on a server without accounts. */
export const asLocal = <T>(work: () => T): T => store.run(LOCAL, work);

/** For tests of a server without accounts: all that is done outside of a request is local from now on. */
export function everythingIsLocal(): void {
  shared.mavrekOutside = LOCAL;
}

/** Does something for the server itself, with all rights: what nobody asked for, or what was asked for and checked already. */
export const asServer = <T>(work: () => T, workspace = workspaceNow() || MAIN): T =>
  store.run({ kind: 'server', workspace, principals: [], via: 'server' }, work);

export function mayDo(right: Right, who = whoNow()): boolean {
  if (who.kind === 'local' || who.kind === 'server') return true;
  return who.kind === 'person' && who.role !== undefined && roleMay(who.role, right, who.scope);
}

/** By what name something is said: who is signed in has theirs, whatever they say; others what they call themselves. */
export const signedName = (given: string): string => whoNow().person?.name ?? given.trim();
export const personNow = (): string | null => whoNow().person?.id ?? null;

/** Several together, each of whom must have the rights. */
export function together(all: readonly Who[]): Who {
  const [first = NOBODY] = all;
  return { ...first, principals: [...new Set(all.flatMap((one) => one.principals))] };
}

/** What people may do in a workspace. The database holds the same table (`mavrek_role_may`), and a test both against each other. */

export const ROLES = ['viewer', 'reviewer', 'editor', 'owner'] as const;
export type Role = (typeof ROLES)[number];

/**
 * `read` see plans and take code away · `comment` say something of them · `review` approve, ask for changes, sign ·
 * `edit` change plans and parts, keep revisions · `manage` people, invitations, the audit log
 */
export const RIGHTS = ['read', 'comment', 'review', 'edit', 'manage'] as const;
export type Right = (typeof RIGHTS)[number];

const OF_ROLE: Readonly<Record<Role, readonly Right[]>> = {
  viewer: ['read'],
  reviewer: ['read', 'comment', 'review'],
  editor: ['read', 'comment', 'edit'],
  owner: RIGHTS,
};

export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  viewer: 'sees plans and takes code away',
  reviewer: 'sees plans, comments, approves and signs',
  editor: 'sees plans, comments, and changes them',
  owner: 'does all of that, and says who else may',
};

/** What an access token may do at most; never more than whoever made it. Nobody signs by a token, or lets people in. */
export const SCOPES = ['read', 'edit'] as const;
export type Scope = (typeof SCOPES)[number];

const OF_SCOPE: Readonly<Record<Scope, readonly Right[]>> = {
  read: ['read'],
  edit: ['read', 'comment', 'edit'],
};

export const SCOPE_WORDS: Readonly<Record<Scope, string>> = {
  read: 'reads: check, generate, compare',
  edit: 'reads and changes: also creates, edits, places',
};

/** Whether a role holds a right, for a token within its scope. */
export const roleMay = (role: Role, right: Right, scope?: Scope): boolean =>
  OF_ROLE[role].includes(right) && (scope === undefined || OF_SCOPE[scope].includes(right));

/** Who somebody is and may do, as pages are told; undefined on a server without accounts, where everybody may everything. */
export interface Me {
  id: string;
  name: string;
  email: string;
  workspace: { id: string; name: string };
  role: Role;
  /** All that they are in. */
  workspaces: { id: string; name: string; role: Role }[];
}

export interface Member {
  id: string;
  name: string;
  email: string;
  role: Role;
  /** ISO 8601. */
  since: string;
}

export interface Invitation {
  id: string;
  email: string;
  role: Role;
  madeAt: string;
  expiresAt: string;
}

export interface AuditEntry {
  id: number;
  at: string;
  who: string;
  /** How they were known: `session`, `token NAME`, `nobody`. */
  via: string;
  /** Method and path, as the description of the interface has them, or what happened. */
  action: string;
  /** Which plan, part or person. */
  target: string;
  /** The status answered. */
  status: number;
}

export interface TokenHead {
  id: string;
  name: string;
  scope: Scope;
  workspace: string;
  madeAt: string;
  expiresAt: string;
  usedAt: string | null;
}

export interface SessionHead {
  id: string;
  agent: string;
  madeAt: string;
  seenAt: string;
  /** The one that asks. */
  own: boolean;
}

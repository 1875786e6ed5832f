/** An edit in words. */
export interface HistoryEntry {
  seq: number;
  /** ISO 8601. */
  at: string;
  /** Who, as they call themselves; empty when they did not say. */
  author: string;
  /** The window in which it was made. */
  client: string;
  text: string;
  /** How many steps it is. */
  steps: number;
}

export interface History {
  /** Newest first. */
  entries: HistoryEntry[];
  /** Older ones are there. */
  more: boolean;
  /** When the plan was made. */
  createdAt: string;
}

/** A moment of a plan that is kept under a name. */
export interface RevisionHead {
  name: string;
  seq: number;
  note: string;
  author: string;
  fingerprint: string;
  errors: number;
  warnings: number;
  at: string;
}

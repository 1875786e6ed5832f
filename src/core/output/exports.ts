import type { CodeOptions } from '../plan/model/types';
import type { GeneratedFile } from './code/types';

/** Generated code that was taken away: of which state of the plan, and when. */
export interface ExportHead {
  id: number;
  seq: number;
  target: string;
  revision: string;
  fingerprint: string;
  /** The plan's options of the code. */
  options: Partial<CodeOptions>;
  at: string;
}

export interface ExportRecord extends ExportHead {
  files: GeneratedFile[];
  /** What registers held as planned, by name. */
  image: Record<string, number>;
}

/** What a compiler says of generated code. */
export interface ToolResult {
  id: string;
  title: string;
  state: 'passed' | 'failed' | 'absent' | 'stopped';
  /** What it said; bounded. */
  said: string;
  /** Bytes of code with constants, and of memory. */
  size?: { code: number; memory: number };
  /** How to get it, where it is not there. */
  install?: string;
}

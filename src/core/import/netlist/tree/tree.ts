/** What an S-expression and an XML file have in common: a head, and texts and further branches in their order. */
import { LIMITS, limitText, overLimit } from '../../../base/limits';
import type { Problem } from '../../../base/problems';

export interface Branch {
  head: string;
  items: (Branch | string)[];
  /** Line of the file, from 1. */
  line: number;
}

/** Builds a tree from what a reader comes across; `problem` says why it takes no more. */
export class TreeBuilder {
  root: Branch | undefined;
  problem: Problem | undefined;
  private readonly open: Branch[] = [];
  private count = 0;

  constructor(private readonly file: string) {}

  get depth(): number {
    return this.open.length;
  }

  refuse(line: number, column: number, message: string): void {
    this.problem ??= { place: `${this.file}:${line}:${column}`, message };
  }

  begin(head: string, line: number, column: number): void {
    const branch: Branch = { head, items: [], line };
    if (this.open.length === LIMITS.netlistDepth)
      this.refuse(line, column, `nested deeper than ${limitText('netlistDepth')}`);
    const parent = this.open.at(-1);
    if (!parent && this.root) this.refuse(line, column, 'something follows after the end of the netlist');
    this.open.push(branch);
    if (parent) this.add(parent, branch, column);
    else this.root ??= branch;
  }

  text(text: string, line: number, column: number): void {
    const parent = this.open.at(-1);
    if (!parent) this.refuse(line, column, `"${text.slice(0, 40)}" stands outside of the netlist`);
    else if (parent.head === '' && parent.items.length === 0) parent.head = text;
    else this.add(parent, text, column);
  }

  end(line: number, column: number): void {
    if (!this.open.pop()) this.refuse(line, column, 'a bracket is closed that was not opened');
  }

  private add(parent: Branch, item: Branch | string, column: number): void {
    if (++this.count > LIMITS.netlistItems)
      this.refuse(parent.line, column, overLimit('netlistItems', this.count));
    else parent.items.push(item);
  }
}

export const branchesOf = ({ items }: Branch): Branch[] =>
  items.filter((item): item is Branch => typeof item !== 'string');

export const textsOf = ({ items }: Branch): string[] =>
  items.filter((item): item is string => typeof item === 'string');

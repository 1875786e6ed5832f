import type { Place } from './tokens';
import type { CType, IntType } from './types';

export type UnaryOperator = '!' | '~' | '-' | '+' | '*' | '&';
export type BinaryOperator =
  | '*'
  | '/'
  | '%'
  | '+'
  | '-'
  | '<<'
  | '>>'
  | '<'
  | '>'
  | '<='
  | '>='
  | '=='
  | '!='
  | '&'
  | '^'
  | '|'
  | '&&'
  | '||';

/** Operators between two values, those that bind least first. */
export const BINARY_LEVELS: readonly (readonly BinaryOperator[])[] = [
  ['||'],
  ['&&'],
  ['|'],
  ['^'],
  ['&'],
  ['==', '!='],
  ['<', '>', '<=', '>='],
  ['<<', '>>'],
  ['+', '-'],
  ['*', '/', '%'],
];

export type Expression = { place: Place; bracketed?: true } & (
  | { kind: 'number'; value: bigint; type: IntType }
  | { kind: 'float' }
  | { kind: 'string'; bytes: number[] }
  | { kind: 'name'; name: string }
  | { kind: 'unary'; operator: UnaryOperator; of: Expression }
  | { kind: 'step'; by: 1 | -1; after: boolean; of: Expression }
  | { kind: 'binary'; operator: BinaryOperator; left: Expression; right: Expression }
  | { kind: 'assign'; operator: BinaryOperator | undefined; left: Expression; right: Expression }
  | { kind: 'choose'; condition: Expression; yes: Expression; no: Expression }
  | { kind: 'call'; of: Expression; given: Expression[] }
  | { kind: 'index'; of: Expression; at: Expression }
  | { kind: 'member'; of: Expression; name: string; arrow: boolean }
  | { kind: 'cast'; type: CType; of: Expression }
  | { kind: 'size'; type?: CType; of?: Expression }
  | { kind: 'offset'; type: CType; names: string[] }
  | { kind: 'comma'; left: Expression; right: Expression }
  | { kind: 'literal'; type: CType; value: Initializer }
);

export type Initializer =
  | { kind: 'one'; value: Expression }
  | { kind: 'list'; place: Place; entries: { to: Designator[]; value: Initializer }[] };
export type Designator = { member: string } | { index: Expression };

export interface Declaration {
  name: string;
  type: CType;
  value?: Initializer;
  static: boolean;
  external: boolean;
  place: Place;
}

export type Statement = { place: Place } & (
  | { kind: 'block'; list: Statement[] }
  | { kind: 'declare'; list: Declaration[] }
  | { kind: 'do'; value: Expression }
  | { kind: 'if'; condition: Expression; yes: Statement; no?: Statement }
  | { kind: 'loop'; test: 'before' | 'after'; condition?: Expression; next?: Expression; body: Statement }
  | { kind: 'for'; first?: Statement; loop: Statement }
  | { kind: 'switch'; of: Expression; body: Statement }
  | { kind: 'case'; value?: Expression; body: Statement }
  | { kind: 'return'; value?: Expression }
  | { kind: 'break' | 'continue' | 'nothing' }
  /** Assembly in between, a jump, or what could not be read. */
  | { kind: 'other'; what: string }
);

export interface FunctionDefinition {
  name: string;
  type: Extract<CType, { kind: 'function' }>;
  body: Statement;
  static: boolean;
  place: Place;
}

/** A file with what it includes. */
export interface Unit {
  file: string;
  functions: FunctionDefinition[];
  objects: Declaration[];
  /** Statements that stand outside of functions, as in a part of a file that was pasted. */
  loose: Statement[];
  enumerators: Map<string, bigint>;
}

import { identifierFrom } from './identifier';

/** A name or number, or a sign, of which places of registers are made. */
const TOKEN = /[A-Za-z_][A-Za-z0-9_]*|[0-9]+|->|[.[\]()*&]/y;

/**
 * What a project's own headers call a register, out of a pattern like `{block}->{register}`, as its tokens; `:lower` and `:upper` set the case.
 * Undefined where the pattern makes no expression: brackets that do not match, or anything but names, numbers and `-> . [ ] ( ) * &`.
 */
export function registerTokens(pattern: string, name: string): string[] | undefined {
  const [block = '', ...rest] = name.split('.');
  const filled = pattern.replace(
    /\{(block|port|register)(?::(lower|upper))?\}/g,
    (_, which: string, letters: string | undefined) => {
      const own = identifierFrom(which === 'register' ? rest.join('_') : block);
      return letters === 'lower' ? own.toLowerCase() : letters === 'upper' ? own.toUpperCase() : own;
    },
  );
  const tokens: string[] = [];
  const token = new RegExp(TOKEN);
  while (token.lastIndex < filled.length) {
    const found = token.exec(filled);
    if (!found) return undefined;
    tokens.push(found[0]);
  }
  const open: string[] = [];
  for (const one of tokens) {
    if (one === '(' || one === '[') open.push(one);
    if (one === ')' && open.pop() !== '(') return undefined;
    if (one === ']' && open.pop() !== '[') return undefined;
  }
  return open.length === 0 && tokens.some((one) => /^[A-Za-z_]/.test(one)) ? tokens : undefined;
}

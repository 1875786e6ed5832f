import type { RuleContext } from './types';

/** "`A` and `B`", "`A`, `B` and `C`". */
export function listNames(names: readonly string[]): string {
  const quoted = names.map((name) => `\`${name}\``);
  if (quoted.length < 2) return quoted.join('');
  return `${quoted.slice(0, -1).join(', ')} and ${quoted.at(-1)}`;
}

/** "pad B7 (terminal 34)"; pads that are not bonded have no terminal. */
export function padWords(context: Pick<RuleContext, 'terminalsOf'>, pad: string): string {
  const terminals = context.terminalsOf(pad);
  if (terminals.length === 0) return `pad \`${pad}\``;
  return `pad \`${pad}\` (terminal${terminals.length > 1 ? 's' : ''} ${terminals.join(', ')})`;
}

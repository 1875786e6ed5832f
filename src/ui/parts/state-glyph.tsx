import type { Severity } from '@/core/derive/rules/types';

/** State is told by shape and word, never by a fill colour. */
export type NetState = 'free' | 'placed' | 'locked' | 'finding' | 'fixed' | 'unbonded';

export const GLYPHS: Record<NetState, { shape: string; word: string }> = {
  free: { shape: '○', word: 'free' },
  placed: { shape: '●', word: 'placed' },
  locked: { shape: '◆', word: 'locked' },
  finding: { shape: '▲', word: 'has a finding' },
  fixed: { shape: '▧', word: 'supply, ground or reset' },
  unbonded: { shape: '╳', word: 'not bonded in this package' },
};

export function StateGlyph({ state, severity }: { state: NetState; severity?: Severity }) {
  const { shape, word } = GLYPHS[state];
  const colour = state === 'finding' ? (severity === 'error' ? 'text-err' : 'text-warn') : 'text-soft';
  return (
    <span
      className={`inline-block w-3.5 text-center text-[12px] ${colour}`}
      role="img"
      aria-label={word}
      title={word}
    >
      {state === 'finding' && severity !== 'error' ? '△' : shape}
    </span>
  );
}

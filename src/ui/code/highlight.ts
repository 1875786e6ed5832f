import hljs from 'highlight.js/lib/core';
import c from 'highlight.js/lib/languages/c';
import cpp from 'highlight.js/lib/languages/cpp';
import markdown from 'highlight.js/lib/languages/markdown';
import plaintext from 'highlight.js/lib/languages/plaintext';
import rust from 'highlight.js/lib/languages/rust';
import xml from 'highlight.js/lib/languages/xml';

/** Grammars by the names that targets give; those without one of their own go by the nearest. */
const GRAMMARS = { c, cpp, rust, xml, markdown, plaintext, devicetree: c, asm: c };
for (const [name, grammar] of Object.entries(GRAMMARS)) hljs.registerLanguage(name, grammar);

/**
 * Source → HTML, one string a line. The library escapes all text; spans that run over a line's end (comments) are closed
 * and opened again, so that every line stands on its own.
 */
export function highlightLines(text: string, language: string): string[] {
  const html = hljs.highlight(text, { language, ignoreIllegals: true }).value;
  let open: string[] = [];
  return html.split('\n').map((line) => {
    const start = open.join('');
    for (const tag of line.match(/<span[^>]*>|<\/span>/g) ?? []) {
      if (tag === '</span>') open = open.slice(0, -1);
      else open.push(tag);
    }
    return `${start}${line}${'</span>'.repeat(open.length)}`;
  });
}

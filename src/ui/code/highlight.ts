import hljs from 'highlight.js/lib/core';
import c from 'highlight.js/lib/languages/c';

hljs.registerLanguage('c', c);

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

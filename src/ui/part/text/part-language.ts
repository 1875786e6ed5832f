import { foldNodeProp, indentService, LanguageSupport, LRLanguage } from '@codemirror/language';
import { styleTags, tags } from '@lezer/highlight';
import { colours } from '../../parts/text-editor';
import { parser } from './part-text-parser';

/** The language of a part's text for the editor: colours and brackets. What words mean is asked of the core. */
const language = LRLanguage.define({
  name: 'part',
  parser: parser.configure({
    props: [
      styleTags({
        'Head/Name': tags.keyword,
        Number: tags.number,
        'Text Quoted Raw': tags.string,
        Comment: tags.lineComment,
        Operator: tags.operator,
      }),
      foldNodeProp.add({ Bracketed: ({ from, to }) => ({ from: from + 1, to: to - 1 }) }),
    ],
  }),
  languageData: { commentTokens: { line: '#' }, closeBrackets: { brackets: ['(', '[', '"', "'"] } },
});

/** A new line stands as deep as the one before it: deeper below a block, and deeper still where a line goes on after a comma. */
const indentation = indentService.of((context, at) => {
  for (let place = at, bias: 1 | -1 = -1; ; ) {
    const { text, from } = context.lineAt(place, bias);
    if (text.trim() !== '' || from === 0) {
      const depth = context.lineIndent(place, bias);
      if (/,\s*$/.test(text)) return depth + 4;
      return depth + (/^\s*block\b/.test(text) ? 2 : 0);
    }
    place = from - 1;
    bias = 1;
  }
});

export const partLanguage = (): LanguageSupport => new LanguageSupport(language, [colours, indentation]);

import {
  foldNodeProp,
  HighlightStyle,
  LanguageSupport,
  LRLanguage,
  syntaxHighlighting,
} from '@codemirror/language';
import { styleTags, tags } from '@lezer/highlight';
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

const colours = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--pick)', fontWeight: '500' },
  { tag: tags.number, color: 'var(--c4)' },
  { tag: tags.string, color: 'var(--c3)' },
  { tag: tags.lineComment, color: 'var(--soft)', fontStyle: 'italic' },
  { tag: tags.operator, color: 'var(--soft)' },
]);

export const partLanguage = (): LanguageSupport =>
  new LanguageSupport(language, [syntaxHighlighting(colours)]);

import { fileURLToPath } from 'node:url';
import {
  type CompletionItem,
  CompletionItemKind,
  type Connection,
  type Diagnostic,
  DiagnosticSeverity,
  type Hover,
  type Location,
  type Range,
  TextDocumentSyncKind,
  TextDocuments,
  type TextEdit,
  type WorkspaceEdit,
} from 'vscode-languageserver';
import { TextDocument } from 'vscode-languageserver-textdocument';
import { filePlace, type Problem } from '@/core/base/problems';
import type { Result } from '@/core/base/result';
import { markdownText } from '@/core/base/text/markdown';
import type { Derived } from '@/core/derive/derive';
import { isPartText } from '@/core/description/part-text/recognise';
import {
  completionsAt,
  type Occurrence,
  occurrenceAt,
  renamed,
  symbolsOf,
  usesOf,
} from '@/core/description/part-text/symbols';
import { formatPartText } from '@/core/description/part-text/text-form';
import type { Device } from '@/core/device/device';
import { sarifReport } from '@/core/output/reports/sarif';
import { meaningOf } from '@/core/part-meaning/meaning';
import { checkPartText } from '@/files/devices';
import { trialCompletions, trialMeaning, trialProblems } from './trial-lines';

/**
 * The language server (LSP 3.17): texts of parts with diagnostics, completion, hover, definition, references, rename and formatting;
 * plan files with their findings, and the lines of their trials with completion and hover. It asks the same forms and checks as the command
 * line, so that all say the same.
 */
export interface PlanReader {
  derive(file: string, text: string, devices: string): Result<Derived>;
  devices: string;
}

/** How long nobody types before a document is checked. */
const CHECK_MS = 200;

export function serveLanguage(connection: Connection, plans: PlanReader): void {
  const documents = new TextDocuments(TextDocument);
  /** Parts as they were when they were whole last. */
  const devices = new Map<string, Device>();
  /** What followed from plans when they were whole last. */
  const plansOpen = new Map<string, Derived>();
  const waiting = new Map<string, NodeJS.Timeout>();

  connection.onInitialize(() => ({
    serverInfo: { name: 'Mavrek' },
    capabilities: {
      textDocumentSync: TextDocumentSyncKind.Incremental,
      completionProvider: { triggerCharacters: [' ', '.', '('] },
      hoverProvider: true,
      definitionProvider: true,
      referencesProvider: true,
      renameProvider: true,
      documentFormattingProvider: true,
    },
  }));

  const rangeOf = (document: TextDocument, { from, to }: { from: number; to: number }): Range => ({
    start: document.positionAt(from),
    end: document.positionAt(to),
  });
  const pathOf = (uri: string): string => (uri.startsWith('file:') ? fileURLToPath(uri) : uri);
  const isPart = (document: TextDocument): boolean => isPartText(pathOf(document.uri), document.getText());

  function diagnosticsOf(document: TextDocument): Diagnostic[] {
    const [path, text] = [pathOf(document.uri), document.getText()];
    if (isPart(document)) {
      const part = checkPartText(path, text);
      if (part.ok) devices.set(document.uri, part.value);
      return part.ok ? [] : part.problems.map((problem) => diagnosticOf(document, path, problem));
    }
    if (!/"format"\s*:\s*"mavrek-plan\//.test(text)) return [];
    const derived = plans.derive(path, text, plans.devices);
    if (!derived.ok) return derived.problems.map((problem) => diagnosticOf(document, path, problem));
    plansOpen.set(document.uri, derived.value);
    const [run] = sarifReport(derived.value, path, text).runs;
    const wrongLines = trialProblems(text, derived.value).map(
      ({ from, to, message }): Diagnostic => ({
        range: rangeOf(document, { from, to }),
        severity: DiagnosticSeverity.Error,
        source: 'mavrek',
        message,
      }),
    );
    const findings = (run?.results ?? []).flatMap((result) => {
      if ('suppressions' in result) return [];
      const line = (result.locations[0]?.physicalLocation.region.startLine ?? 1) - 1;
      return [
        {
          range: rowOf(document, line, 0),
          severity: SEVERITIES[result.level] ?? DiagnosticSeverity.Information,
          source: 'mavrek',
          code: result.ruleId,
          message: result.message.text,
        },
      ];
    });
    return [...wrongLines, ...findings];
  }

  const check = (document: TextDocument): void => {
    clearTimeout(waiting.get(document.uri));
    waiting.set(
      document.uri,
      setTimeout(() => {
        waiting.delete(document.uri);
        void connection.sendDiagnostics({
          uri: document.uri,
          version: document.version,
          diagnostics: diagnosticsOf(document),
        });
      }, CHECK_MS),
    );
  };
  documents.onDidChangeContent(({ document }) => check(document));
  documents.onDidClose(({ document: { uri } }) => {
    clearTimeout(waiting.get(uri));
    waiting.delete(uri);
    devices.delete(uri);
    plansOpen.delete(uri);
    void connection.sendDiagnostics({ uri, diagnostics: [] });
  });

  /** What stands at a position of a part's text. */
  const at = <T>(
    {
      textDocument,
      position,
    }: { textDocument: { uri: string }; position: { line: number; character: number } },
    work: (document: TextDocument, offset: number) => T,
  ): T | null => {
    const document = documents.get(textDocument.uri);
    return document && isPart(document) ? work(document, document.offsetAt(position)) : null;
  };
  const locationOf = (document: TextDocument, occurrence: Occurrence): Location => ({
    uri: document.uri,
    range: rangeOf(document, occurrence),
  });

  /** The same of a plan's text, with what follows from the plan. */
  const inPlan = <T>(
    {
      textDocument,
      position,
    }: { textDocument: { uri: string }; position: { line: number; character: number } },
    work: (document: TextDocument, offset: number, derived: Derived) => T,
  ): T | null => {
    const document = documents.get(textDocument.uri);
    const derived = plansOpen.get(textDocument.uri);
    return document && derived ? work(document, document.offsetAt(position), derived) : null;
  };

  const completedTrial = (document: TextDocument, offset: number, derived: Derived): CompletionItem[] => {
    const offered = trialCompletions(document.getText(), offset, derived);
    if (!offered) return [];
    const range = rangeOf(document, offered.place);
    return offered.list.map(({ text, says }) => ({
      label: text,
      kind: says === '' ? CompletionItemKind.Keyword : CompletionItemKind.Variable,
      ...(says === '' ? {} : { detail: says }),
      textEdit: { range, newText: text },
    }));
  };

  const explainedTrial = (document: TextDocument, offset: number, derived: Derived): Hover | null => {
    const meaning = trialMeaning(document.getText(), offset, derived);
    if (!meaning) return null;
    const facts = meaning.facts.map((fact) => `- ${markdownText(fact)}`);
    return {
      contents: { kind: 'markdown', value: [`**${markdownText(meaning.heading)}**`, ...facts].join('\n') },
      range: rangeOf(document, meaning.place),
    };
  };

  connection.onCompletion(
    (asked) =>
      inPlan(asked, completedTrial) ??
      at(asked, (document, offset): CompletionItem[] => {
        const offered = completionsAt(document.getText(), offset);
        if (!offered) return [];
        const range = rangeOf(document, { from: offered.from, to: offset });
        return offered.options.map(({ label, kind }) => ({
          label,
          kind: kind === 'word' ? CompletionItemKind.Keyword : CompletionItemKind.Variable,
          ...(kind === 'word' ? {} : { detail: kind }),
          textEdit: { range, newText: label },
        }));
      }),
  );

  connection.onHover(
    (asked) =>
      inPlan(asked, explainedTrial) ??
      at(asked, (document, offset): Hover | null => {
        const occurrence = occurrenceAt(symbolsOf(document.getText()), offset);
        const device = devices.get(document.uri);
        const meaning = occurrence && device && meaningOf(device, occurrence.key);
        if (!occurrence || !meaning) return null;
        const lines = [
          `**${meaning.heading}**${meaning.says ? `: ${markdownText(meaning.says)}` : ''}`,
          ...meaning.facts.map(({ name, value }) => `- ${name}: ${markdownText(value)}`),
          ...(meaning.lines.length > 0 ? ['```', ...meaning.lines.slice(0, 12), '```'] : []),
        ];
        return {
          contents: { kind: 'markdown', value: lines.join('\n') },
          range: rangeOf(document, occurrence),
        };
      }),
  );

  connection.onDefinition((asked) =>
    at(asked, (document, offset): Location | null => {
      const symbols = symbolsOf(document.getText());
      const definition = symbols.definitions.get(occurrenceAt(symbols, offset)?.key ?? '');
      return definition ? locationOf(document, definition) : null;
    }),
  );

  connection.onReferences((asked) =>
    at(asked, (document, offset): Location[] => {
      const symbols = symbolsOf(document.getText());
      const occurrence = occurrenceAt(symbols, offset);
      return occurrence
        ? usesOf(symbols, occurrence.key)
            .filter(({ defines }) => asked.context.includeDeclaration || !defines)
            .map((use) => locationOf(document, use))
        : [];
    }),
  );

  connection.onRenameRequest((asked) =>
    at(asked, (document, offset): WorkspaceEdit => {
      const changes = renamed(document.getText(), offset, asked.newName);
      if (!changes.ok) throw new Error(changes.problems[0]?.message ?? 'cannot be renamed');
      const edits = changes.value.map(
        ({ from, to, insert }): TextEdit => ({ range: rangeOf(document, { from, to }), newText: insert }),
      );
      return { changes: { [document.uri]: edits } };
    }),
  );

  connection.onDocumentFormatting(({ textDocument }) => {
    const document = documents.get(textDocument.uri);
    if (!document || !isPart(document)) return null;
    const text = document.getText();
    const formatted = formatPartText(pathOf(document.uri), text);
    if (!formatted.ok || formatted.value === text) return [];
    return [{ range: rangeOf(document, { from: 0, to: text.length }), newText: formatted.value }];
  });

  documents.listen(connection);
  connection.listen();
}

const SEVERITIES: Readonly<Record<string, DiagnosticSeverity>> = {
  error: DiagnosticSeverity.Error,
  warning: DiagnosticSeverity.Warning,
  note: DiagnosticSeverity.Information,
};

/** A row from a column on. */
function rowOf(document: TextDocument, line: number, character: number): Range {
  const row = document.getText({ start: { line, character: 0 }, end: { line: line + 1, character: 0 } });
  const end = row.replace(/\r?\n$/, '').length;
  const start = Math.min(character, end);
  const word = /^[\w.{}*-]+/.exec(row.slice(start))?.[0].length ?? 0;
  return { start: { line, character: start }, end: { line, character: word > 0 ? start + word : end } };
}

/** At its place in the document; what is elsewhere (in a table) at the top, with its place. */
function diagnosticOf(document: TextDocument, path: string, problem: Problem): Diagnostic {
  const place = filePlace(problem.place);
  const isHere = place?.file === path;
  return {
    range: isHere ? rowOf(document, place.line - 1, place.column - 1) : rowOf(document, 0, 0),
    severity: DiagnosticSeverity.Error,
    source: 'mavrek',
    message: isHere ? problem.message : `${problem.place}: ${problem.message}`,
  };
}

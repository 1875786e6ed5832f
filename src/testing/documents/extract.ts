import { readFileSync, writeFileSync } from 'node:fs';
import { extractPage, type PdfPage } from '@/core/import/pdf/extract-page';

/** Run as a program of its own, as the library is one of modules: PDF files → their pages, as JSON beside them. */
async function main(): Promise<void> {
  const library = await import('pdfjs-dist/legacy/build/pdf.mjs');
  for (const path of process.argv.slice(2)) {
    const { promise } = library.getDocument({
      data: new Uint8Array(readFileSync(path)),
      disableFontFace: true,
      useSystemFonts: false,
      standardFontDataUrl: `${process.cwd()}/node_modules/pdfjs-dist/standard_fonts/`,
      verbosity: 0,
    });
    const document = await promise;
    const pages = [];
    for (let number = 1; number <= document.numPages; number++)
      pages.push(await extractPage((await document.getPage(number)) as unknown as PdfPage, library.OPS));
    writeFileSync(`${path}.json`, JSON.stringify(pages));
  }
}

void main();

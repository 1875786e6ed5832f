'use client';

import { Dialog } from 'radix-ui';
import { useEffect, useState } from 'react';
import { type Source, sourceText } from '@/core/description/source';
import { type OpenDocument, openDocument } from '../client/document-worker';
import { fetchDocument } from '../client/documents';
import { PagePicture } from './page-picture';
import { ScrollRegion } from './scroll-region';

/** Where a datum was read; where the document is kept, the page opens at that row, beside the part. */
export function SourceLink({ source }: { source: Source }) {
  const [open, setOpen] = useState(false);
  const { file, page } = source;
  if (file === undefined || page === undefined)
    return <span className="text-soft">{sourceText(source)}</span>;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen} modal={false}>
      <Dialog.Trigger className="link text-left">{sourceText(source)}</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-y-0 left-0 z-50 flex w-[min(760px,58vw)] flex-col border-r border-ink bg-paper shadow-lg"
          onInteractOutside={(event) => event.preventDefault()}
        >
          <div className="flex items-baseline gap-3 border-b border-rule bg-sheet px-4 py-2">
            <Dialog.Title className="font-semibold">{sourceText(source)}</Dialog.Title>
            <Dialog.Close className="link ml-auto">Close</Dialog.Close>
          </div>
          <ScrollRegion label="Page of the document" className="min-h-0 flex-1 p-3">
            <KeptPage file={file} page={page} name={source.document} box={source.box} />
          </ScrollRegion>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

interface KeptPageProps {
  file: string;
  page: number;
  name: string;
  box: Source['box'];
}

/** A page of a document that is kept at the server, with the row that a datum is from. */
function KeptPage({ file, page, name, box }: KeptPageProps) {
  const [document, setDocument] = useState<OpenDocument | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    let current = true;
    let opened: OpenDocument | undefined;
    void fetchDocument(file).then(async (bytes) => {
      if (!current) return;
      if (!bytes) {
        setProblem('The document is not kept at this server.');
        return;
      }
      const result = await openDocument(name, bytes, null, () => undefined).result;
      if (!result.ok) setProblem(result.problems[0]?.message ?? 'The document cannot be opened.');
      else if (current) {
        opened = result.value;
        setDocument(opened);
      } else result.value.close();
    });
    return () => {
      current = false;
      opened?.close();
    };
  }, [file, name]);
  useEffect(() => {
    if (!document) return;
    requestAnimationFrame(() =>
      window.document.querySelector('[data-source-row]')?.scrollIntoView({ block: 'center' }),
    );
  }, [document]);
  if (problem !== '') return <p role="alert">{problem}</p>;
  const size = document?.pages[page - 1];
  if (!document || !size)
    return (
      <p className="text-soft" aria-busy="true">
        Opening {name} …
      </p>
    );
  return (
    <PagePicture document={document} page={page} width={700}>
      {box && (
        <rect
          data-source-row=""
          x={box[0] * size.width}
          y={box[1] * size.height}
          width={(box[2] - box[0]) * size.width}
          height={(box[3] - box[1]) * size.height}
          className="fill-pick/15 stroke-pick"
          strokeWidth="1.5"
        />
      )}
    </PagePicture>
  );
}

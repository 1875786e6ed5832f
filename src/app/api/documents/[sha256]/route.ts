import { LIMITS, tooLarge } from '@/core/base/limits';
import { attachment } from '@/core/base/text/file-name';
import { arrivingDocument, documentPieces, findDocument, keepDocument } from '@/server/documents';
import { answer, notFound, readPieces, refuse, route } from '../../http';

export const dynamic = 'force-dynamic';

const HASH = /^[0-9a-f]{64}$/;

/** A document that a part's tables were read from. It never changes: its address is the hash of its content. */
export const GET = route<{ sha256: string }>(async (_request, { sha256 }) => {
  const document = HASH.test(sha256) ? await findDocument(sha256) : undefined;
  if (!document) return notFound('document');
  const pieces = documentPieces(sha256, document.bytes);
  // A piece is fetched when the one before is on its way: whoever reads slowly holds one in memory.
  const content = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await pieces.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    cancel: async () => void (await pieces.return(undefined)),
  });
  return new Response(content, {
    headers: {
      'content-type': 'application/pdf',
      'content-length': String(document.bytes),
      'content-disposition': attachment(document.name),
      'cache-control': 'private, max-age=31536000, immutable',
    },
  });
});

/** Keeps a PDF document; `?name=` is what it was called. */
export const PUT = route<{ sha256: string }>(async (request, { sha256 }) => {
  if (!HASH.test(sha256)) return notFound('document');
  const document = arrivingDocument();
  if (!(await readPieces(request, LIMITS.documentBytes, document.add)))
    return refuse(413, { place: 'document', message: tooLarge('documentBytes') });
  if (!new TextDecoder('latin1').decode(document.head.subarray(0, 1024)).includes('%PDF-'))
    return refuse(415, { place: 'document', message: 'is no PDF document' });
  if (document.sha256() !== sha256)
    return refuse(400, { place: 'document', message: 'has another hash than its address says' });
  const name = (new URL(request.url).searchParams.get('name') ?? 'document.pdf').slice(0, 300);
  await keepDocument(sha256, name, document.pieces);
  return answer({ sha256 });
});

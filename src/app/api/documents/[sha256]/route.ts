import { LIMITS, tooLarge } from '@/core/base/limits';
import { attachment } from '@/core/base/text/file-name';
import { keepDocument, readDocument } from '@/server/documents';
import { answer, notFound, readBytes, refuse, route } from '../../http';

export const dynamic = 'force-dynamic';

const HASH = /^[0-9a-f]{64}$/;

/** A document that a part's tables were read from. It never changes: its address is the hash of its content. */
export const GET = route<{ sha256: string }>(async (_request, { sha256 }) => {
  const found = HASH.test(sha256) ? await readDocument(sha256) : undefined;
  if (!found) return notFound('document');
  return new Response(found.content as BodyInit, {
    headers: {
      'content-type': 'application/pdf',
      'content-disposition': attachment(found.name),
      'cache-control': 'private, max-age=31536000, immutable',
    },
  });
});

/** Keeps a PDF document; `?name=` is what it was called. */
export const PUT = route<{ sha256: string }>(async (request, { sha256 }) => {
  if (!HASH.test(sha256)) return notFound('document');
  const content = await readBytes(request, LIMITS.documentBytes);
  if (!content) return refuse(413, { place: 'document', message: tooLarge('documentBytes') });
  if (!new TextDecoder('latin1').decode(content.subarray(0, 1024)).includes('%PDF-'))
    return refuse(415, { place: 'document', message: 'is no PDF document' });
  const name = (new URL(request.url).searchParams.get('name') ?? 'document.pdf').slice(0, 300);
  if (!(await keepDocument(sha256, name, content)))
    return refuse(400, { place: 'document', message: 'has another hash than its address says' });
  return answer({ sha256 });
});

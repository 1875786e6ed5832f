import { answer, route } from '../http';
import { openApiDocument } from '../openapi/document';

export const dynamic = 'force-dynamic';

let document: object | undefined;

/** The description of the interface (OpenAPI 3.1). */
export const GET = route(async () => {
  document ??= openApiDocument();
  return answer(document);
});

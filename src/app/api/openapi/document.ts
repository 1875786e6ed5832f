import type { Schema } from '@/core/plan/model/schema-parts';
import { API_ACCESS, type Need, type Route } from '@/server/people/access';
import { ANSWERS, problemList, record } from './answers';
import { formSchema } from './form-schema';
import { OPERATIONS, type Operation } from './operations';
import { SCHEMA_COMPONENTS } from './schema-components';

/** The description of the interface, OpenAPI 3.1: made of the table of operations and of what requests are held to. */

const isForm = (body: NonNullable<Operation['body']>): body is Extract<typeof body, { describe: unknown }> =>
  'describe' in body;

const COMPONENTS: Record<string, Schema> = {
  ...SCHEMA_COMPONENTS,
  Problems: record({ problems: problemList }),
  ...ANSWERS,
};

const problems = (description: string) => ({
  description,
  content: { 'application/json': { schema: { $ref: '#/components/schemas/Problems' } } },
});

/** What is said of who may ask for it. */
const NEEDS: Readonly<Record<Need, string>> = {
  public: 'For anybody.',
  'signed-in': 'With accounts: for anybody who has one, and for access tokens.',
  session: 'With accounts: for whoever is signed in; not for access tokens.',
  read: 'With accounts: for every role.',
  comment: 'With accounts: for reviewers, editors, owners, and tokens of scope “edit”.',
  review: 'With accounts: for reviewers and owners; not for access tokens.',
  edit: 'With accounts: for editors and owners, and tokens of scope “edit”.',
  manage: 'With accounts: for owners; not for access tokens.',
};

function operationOf(name: string, one: Operation) {
  const { group, summary, query = {}, body, status, answer, also = {} } = one;
  const path = name.split(' ')[1] ?? '';
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, key]) => ({
    name: key,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  const asked = Object.entries(query).map(([key, { says, required, schema }]) => ({
    name: key,
    in: 'query',
    description: says,
    ...(required ? { required } : {}),
    schema: schema ?? { type: 'string' },
  }));
  const type = typeof answer.type === 'string' && answer.type.includes('/') ? answer.type : undefined;
  const need = API_ACCESS[name as Route];
  return {
    tags: [group],
    summary,
    description: NEEDS[need],
    ...(need === 'public' ? { security: [] } : {}),
    operationId: name
      .replace(/^(\w+) \/api/, (_, method: string) => method.toLowerCase())
      .replace(/[^A-Za-z0-9]+/g, '_')
      .replace(/_$/, ''),
    ...(inPath.length + asked.length > 0 ? { parameters: [...inPath, ...asked] } : {}),
    ...(body
      ? {
          requestBody: {
            required: true,
            content: isForm(body)
              ? { 'application/json': { schema: formSchema(body) } }
              : { [body.type ?? 'application/json']: { schema: body.schema } },
          },
        }
      : {}),
    responses: {
      [status ?? 200]: {
        description: 'Done',
        content: type ? { [type]: {} } : { 'application/json': { schema: answer } },
      },
      ...(body || asked.length > 0 ? { 400: problems('The request cannot be read') } : {}),
      ...(inPath.length > 0 ? { 404: problems('It is not there') } : {}),
      ...(need === 'public'
        ? {}
        : {
            401: problems('On a server with accounts: nobody is signed in, and there is no token'),
            403: problems('On a server with accounts: whoever asks may not do this'),
          }),
      ...Object.fromEntries(Object.entries(also).map(([code, says]) => [code, problems(says)])),
    },
  };
}

export function openApiDocument(): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const [name, one] of Object.entries(OPERATIONS)) {
    const [method = '', path = ''] = name.split(' ');
    paths[path] = { ...paths[path], [method.toLowerCase()]: operationOf(name, one) };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Mavrek',
      version: '1',
      description:
        'Plans of what every pin of a microcontroller does: made, changed by edits, checked, placed, generated, compared, reviewed. What is wrong is answered as `problems`, each with its place and a sentence.',
      license: { name: 'Apache-2.0', identifier: 'Apache-2.0' },
    },
    servers: [{ url: '/' }],
    tags: [...new Set(Object.values(OPERATIONS).map(({ group }) => group))].map((name) => ({ name })),
    paths,
    // On servers without accounts nobody has to say who they are.
    security: [{ token: [] }, { session: [] }, {}],
    components: {
      schemas: COMPONENTS,
      securitySchemes: {
        token: {
          type: 'http',
          scheme: 'bearer',
          description: 'An access token, made on the page of one’s account.',
        },
        session: {
          type: 'apiKey',
          in: 'cookie',
          name: 'mavrek-session',
          description: 'As browsers have it.',
        },
      },
    },
  };
}

import { type Endpoint, ENDPOINTS, Id, parametersOf, ProblemDetails, REQUEST_CODES } from '@rundle/core';
import * as z from 'zod';
import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiPathsObject } from 'zod-openapi';

/** The OpenAPI 3.1 description of all endpoints. */
export function openApiDocument(): object {
  const paths: ZodOpenApiPathsObject = {};
  for (const [name, endpoint] of Object.entries<Endpoint>(ENDPOINTS))
    paths[endpoint.path] = { ...paths[endpoint.path], [endpoint.method]: operationOf(name, endpoint) };
  return createDocument({
    openapi: '3.1.0',
    info: { title: 'Rundle', version: '1', description: 'Web versions of finished pictures. Errors are problem details (RFC 9457).' },
    paths,
  });
}

const IF_MATCH = z.object({
  'if-match': z
    .string()
    .optional()
    .meta({ description: 'The version that the change starts from, such as "3"; without it nothing is compared' }),
});

function operationOf(
  operationId: string,
  { path, summary, query, body, ifMatch, answer, status, media, errors = [] }: Endpoint,
): ZodOpenApiOperationObject {
  const content = (type: string, schema?: z.ZodType) => ({ content: { [type]: schema ? { schema } : {} } });
  const names = parametersOf(path);
  const parameters = names.length ? { path: z.object(Object.fromEntries(names.map((name) => [name, Id]))) } : {};
  const success = answer
    ? { [status ?? 200]: { description: 'Done', ...content('application/json', answer) } }
    : media
      ? { 200: { description: 'Done', ...content(media) } }
      : { 204: { description: 'Done' } };
  const problem = content('application/problem+json', ProblemDetails);
  const failures = Object.fromEntries(
    [...new Set(errors.map((code) => REQUEST_CODES[code].status))].map((failed) => {
      const codes = errors.filter((code) => REQUEST_CODES[code].status === failed);
      return [failed, { description: codes.map((code) => `\`${code}\`: ${REQUEST_CODES[code].means}`).join(' '), ...problem }];
    }),
  );
  return {
    operationId,
    summary,
    ...(names.length || query
      ? { requestParams: { ...parameters, ...(query ? { query } : {}), ...(ifMatch ? { header: IF_MATCH } : {}) } }
      : {}),
    ...(body ? { requestBody: content('application/json', body) } : {}),
    responses: { ...success, ...failures, default: { description: 'What any call may end with', ...problem } },
  };
}

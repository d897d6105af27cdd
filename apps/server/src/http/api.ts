import { setTimeout as wait } from 'node:timers/promises';
import { fieldProblems, ProblemDetails } from '@rundle/core';
import { isDatabaseAway } from '@rundle/store';
import { type Request, type Response, Router } from 'express';
import type * as z from 'zod';
import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiPathsObject } from 'zod-openapi';
import { HttpProblem } from './problem';
import { refuseNoText } from './text-rule';

type Shape = z.ZodObject;
type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** One call of the HTTP interface: its schemas check what comes in and describe it in OpenAPI. */
export interface Endpoint<P extends Shape, B extends z.ZodType, R extends z.ZodType, Q extends Shape = Shape> {
  method: Method;
  /** OpenAPI form, for instance `/api/sets/{setId}`. */
  path: string;
  summary: string;
  params?: P;
  /** What stands behind the ? of the address. */
  query?: Q;
  /** JSON body. */
  body?: B;
  /** What is answered as JSON; without it the answer has no content, or the handler writes it itself. */
  answer?: R;
  status?: number;
  /** For answers and bodies that are not JSON: their media types, for the description. */
  media?: { answer?: string; body?: string };
}

export interface Call<P, B, Q> {
  params: P;
  query: Q;
  body: B;
  request: Request;
  response: Response;
}

/** An answer that is JSON already, in UTF-8. */
export class MadeJson {
  constructor(readonly bytes: Uint8Array) {}
}

/** All calls of the interface: routes and their description are made from the same definitions. */
export class Api {
  readonly router = Router();
  private readonly paths: ZodOpenApiPathsObject = {};

  /** Adds a call. The handler's value is sent as JSON, unless it has answered by itself. */
  add<P extends Shape, B extends z.ZodType, R extends z.ZodType, Q extends Shape>(
    endpoint: Endpoint<P, B, R, Q>,
    handler: (call: Call<z.infer<P>, z.infer<B>, z.infer<Q>>) => Promise<z.infer<R> | MadeJson>,
  ): void {
    const { method, path, params, query, body, status = 200 } = endpoint;
    this.describe(endpoint, status);
    this.router[method](path.replace(/\{(\w+)\}/g, ':$1'), async (request, response) => {
      const call = {
        ...{ request, response },
        params: params ? check(params, request.params, 'path') : {},
        query: query ? check(query, request.query, 'query') : {},
        body: body ? check(body, request.body, 'body') : undefined,
      };
      const answer = await this.answer(method, () => handler(call as Call<z.infer<P>, z.infer<B>, z.infer<Q>>));
      if (response.headersSent || response.writableEnded) return;
      if (answer instanceof MadeJson) response.status(status).type('json').end(answer.bytes);
      else if (endpoint.answer) response.status(status).json(answer);
      else response.status(204).end();
    });
  }

  /** A question may be asked again when a connection to the database broke in the middle; a change may have been made. */
  private async answer<T>(method: Method, ask: () => Promise<T>): Promise<T> {
    for (let left = method === 'get' ? 2 : 0; ; left--)
      try {
        return await ask();
      } catch (error) {
        if (!isDatabaseAway(error) || left <= 0) throw error;
        await wait(150);
      }
  }

  /** The OpenAPI 3.1 description of all calls. */
  document(): object {
    return createDocument({
      openapi: '3.1.0',
      info: { title: 'Rundle', version: '1', description: 'Web versions of finished pictures. Errors are problem details (RFC 9457).' },
      paths: this.paths,
    });
  }

  private describe<P extends Shape, B extends z.ZodType, R extends z.ZodType, Q extends Shape>(
    endpoint: Endpoint<P, B, R, Q>,
    status: number,
  ): void {
    const { method, path, summary, params, query, body, answer, media } = endpoint;
    const content = (type: string, schema?: z.ZodType) => ({ content: { [type]: schema ? { schema } : {} } });
    const success = answer
      ? { [status]: { description: 'Done', ...content('application/json', answer) } }
      : media?.answer
        ? { 200: { description: 'Done', ...content(media.answer) } }
        : { 204: { description: 'Done' } };
    const operation: ZodOpenApiOperationObject = {
      summary,
      ...(params || query ? { requestParams: { ...(params ? { path: params } : {}), ...(query ? { query } : {}) } } : {}),
      ...(body ? { requestBody: content('application/json', body) } : media?.body ? { requestBody: content(media.body) } : {}),
      responses: { ...success, default: { description: 'What went wrong', ...content('application/problem+json', ProblemDetails) } },
    };
    this.paths[path] = { ...this.paths[path], [method]: operation };
  }
}

function check<T extends z.ZodType>(schema: T, value: unknown, where: string): z.infer<T> {
  refuseNoText(value, where);
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const problems = fieldProblems(result.error, value, 'field');
  const first = problems[0]?.message ?? '';
  throw new HttpProblem(400, 'invalid', `The ${where} of the request is not right. ${first}`, problems);
}

import { setTimeout as wait } from 'node:timers/promises';
import { type Endpoint, type EndpointName, ENDPOINTS, fieldProblems, Id, type Method, parametersOf } from '@rundle/core';
import { isDatabaseAway } from '@rundle/store';
import { type Request, type Response, Router } from 'express';
import * as z from 'zod';
import { type Exchange, type Handlers, MadeJson } from './handlers';
import { requestProblem } from './problem';
import { refuseNoText } from './text-rule';

/** Routes for all endpoints: what comes in is checked by the endpoint's schemas, and what the handler returns is sent. */
export function routesOf(handlers: Handlers): Router {
  const router = Router();
  for (const [name, endpoint] of Object.entries(ENDPOINTS) as [EndpointName, Endpoint][])
    addRoute(router, endpoint, handlers[name] as (call: Exchange) => Promise<unknown>);
  return router;
}

function addRoute(router: Router, endpoint: Endpoint, handler: (call: Exchange) => Promise<unknown>): void {
  const { method, path, query, body, answer } = endpoint;
  const status = endpoint.status ?? 200;
  const parameters = z.object(Object.fromEntries(parametersOf(path).map((name) => [name, Id])));
  router[method](path.replace(/\{(\w+)\}/g, ':$1'), async (request: Request, response: Response) => {
    const call = {
      request,
      response,
      ...check(parameters, request.params, 'path'),
      ...(query ? { query: check(query, request.query, 'query') } : {}),
      ...(body ? { body: check(body, request.body, 'body') } : {}),
      ...(endpoint.ifMatch ? { version: versionOf(request.headers['if-match']) } : {}),
    };
    const value = await answered(method, () => handler(call));
    if (response.headersSent || response.writableEnded) return;
    if (value instanceof MadeJson) response.status(status).type('json').end(value.bytes);
    else if (answer) response.status(status).json(value);
    else response.status(204).end();
  });
}

/** @returns null when the caller sends no If-Match */
function versionOf(tag: string | undefined): number | null {
  if (tag === undefined || tag === '*') return null;
  const [, version] = /^"(\d{1,9})"$/.exec(tag) ?? [];
  if (version === undefined) throw requestProblem('invalid', 'If-Match has to be one version in quotation marks, such as "3".');
  return Number(version);
}

/** A read can be repeated when the connection to the database broke half-way; a write may already have been made. */
async function answered<T>(method: Method, ask: () => Promise<T>): Promise<T> {
  for (let left = method === 'get' ? 2 : 0; ; left--)
    try {
      return await ask();
    } catch (error) {
      if (!isDatabaseAway(error) || left <= 0) throw error;
      await wait(150);
    }
}

function check<T extends z.ZodType>(schema: T, value: unknown, where: string): z.output<T> {
  refuseNoText(value, where);
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const problems = fieldProblems(result.error, value, 'field', schema);
  const first = problems[0]?.message ?? '';
  throw requestProblem('invalid', where === 'body' ? first : `The ${where} of the request is not right. ${first}`, problems);
}

import type * as z from 'zod';
import type { RequestCode } from '../codes/problem-codes';

export type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** One call of the HTTP interface, as data: the server's routes, the page's client and the OpenAPI description are made from it. */
export interface Endpoint {
  readonly method: Method;
  /** In OpenAPI form, for instance `/api/sets/{setId}`; every parameter is an id. */
  readonly path: string;
  readonly summary: string;
  /** What stands behind the ? of the address. */
  readonly query?: z.ZodObject;
  /** JSON body. */
  readonly body?: z.ZodType;
  /** Whether the version that a change starts from is sent, as `If-Match` (RFC 9110, 13.1.1): what has changed since is not overwritten. */
  readonly ifMatch?: true;
  /** JSON answer; without it, and without a media type, the answer has no content. */
  readonly answer?: z.ZodType;
  /** Of a success, where it is neither 200 nor 204. */
  readonly status?: 201;
  /** Media type of an answer that is not JSON. */
  readonly media?: string;
  /** Codes that it may end with, beside those that any call may. */
  readonly errors?: readonly RequestCode[];
}

/** The names in braces of a path. */
export type ParameterOf<Path extends string> = Path extends `${string}{${infer Name}}${infer Rest}` ? Name | ParameterOf<Rest> : never;

type ParametersOf<E extends Endpoint> = { readonly [Name in ParameterOf<E['path']>]: string };

/** What may be sent: nothing in it is changed, so that it may be read-only. */
type ReadOnlyInput<T> = T extends readonly (infer One)[]
  ? readonly ReadOnlyInput<One>[]
  : T extends object
    ? { readonly [Key in keyof T]: ReadOnlyInput<T[Key]> }
    : T;

/** What addresses an endpoint: a value for each parameter of its path, and its query. */
export type AddressOf<E extends Endpoint> = ParametersOf<E> &
  (E extends { query: infer Query extends z.ZodType } ? { readonly query?: ReadOnlyInput<z.input<Query>> } : unknown);

/** What a caller gives: what addresses the endpoint, and a body, before defaults are filled in. */
export type InputOf<E extends Endpoint> = AddressOf<E> &
  (E extends { body: infer Body extends z.ZodType } ? { readonly body: ReadOnlyInput<z.input<Body>> } : unknown) &
  (E extends { ifMatch: true } ? { readonly version: number } : unknown);

/** What a handler gets: the same, checked and with its defaults. */
export type CallOf<E extends Endpoint> = ParametersOf<E> &
  (E extends { query: infer Query extends z.ZodType } ? { readonly query: z.output<Query> } : unknown) &
  (E extends { body: infer Body extends z.ZodType } ? { readonly body: z.output<Body> } : unknown) &
  (E extends { ifMatch: true } ? { readonly version: number | null } : unknown);

/** What is answered. */
export type AnswerOf<E extends Endpoint> = E extends { answer: infer Answer extends z.ZodType } ? z.output<Answer> : void;

/** A version as `If-Match` has it. */
export const entityTag = (version: number): string => `"${version}"`;

/** The names in braces of a path, in their order. */
export const parametersOf = (path: string): string[] => [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => name!);

/** The address of a path in OpenAPI form, from the root of the server, with what it is given for its parameters and as its query. */
export function filledPath(template: string, given: Readonly<Record<string, unknown>>): string {
  const path = template.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(given[name])));
  const query = Object.entries((given['query'] ?? {}) as Record<string, unknown>).filter(([, value]) => value !== undefined);
  const search = new URLSearchParams(query.map(([name, value]): [string, string] => [name, String(value)])).toString();
  return search ? `${path}?${search}` : path;
}
